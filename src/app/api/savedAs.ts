/** As RFC 8187 has it: what RFC 3986 leaves as it is ends a name there. */
const encoded = (name: string): string =>
  encodeURIComponent(name).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`);

/** The header of a file that is saved under a name of any letters; `plain` is for who knows none but ASCII's. */
export const savedAs = (name: string, plain: string): string =>
  `attachment; filename="${plain}"; filename*=UTF-8''${encoded(name)}`;
