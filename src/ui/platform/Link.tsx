'use client';
import NextLink, { type LinkProps } from 'next/link';
import { type ComponentProps, useState } from 'react';

/**
 * Next's link, which fetches the page it leads to once the pointer or the focus is on it: fetching every page a screen has a link to, a card
 * each, was about half of what opening the screen asked of the server.
 */
export default function Link({
  onMouseEnter,
  onFocus,
  ...props
}: LinkProps & Omit<ComponentProps<'a'>, keyof LinkProps>) {
  const [wanted, setWanted] = useState(false);
  return (
    <NextLink
      {...props}
      prefetch={wanted ? null : false}
      onMouseEnter={(event) => {
        setWanted(true);
        onMouseEnter?.(event);
      }}
      onFocus={(event) => {
        setWanted(true);
        onFocus?.(event);
      }}
    />
  );
}
