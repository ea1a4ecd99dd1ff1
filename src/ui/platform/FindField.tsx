/** A field by whose words a list is narrowed. */
export const FindField = ({
  label,
  words,
  set,
}: {
  label: string;
  words: string;
  set: (words: string) => void;
}) => (
  <input
    type="search"
    className="find"
    placeholder={label}
    aria-label={label}
    value={words}
    onChange={(e) => set(e.target.value)}
  />
);
