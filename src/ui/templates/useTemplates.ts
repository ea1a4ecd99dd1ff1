'use client';
import { useQuery } from '@tanstack/react-query';
import { library } from '../platform/client';

/** The templates of the library, those that ship first. */
export const useTemplates = (enabled = true) =>
  useQuery({ queryKey: ['templates'], queryFn: library.templates, enabled });
