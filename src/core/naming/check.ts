/** A problem with one clip's name or place: `stop` prevents applying, `look` is worth a look. */
export interface Problem {
  level: 'stop' | 'look';
  code: string;
  text: string;
}

const DEVICE_NAMES = /^(?:con|prn|aux|nul|com[1-9]|lpt[1-9])(?:\.|$)/i;

/**
 * Whether a file or folder name works on the systems footage travels through. The forbidden characters and device names
 * are those of the Win32 file name rules, the strictest in use; 255 bytes is the limit of most file systems (from
 * memory).
 */
export function checkName(name: string): Problem[] {
  const stop = (code: string, text: string): Problem => ({ level: 'stop', code, text });
  const problems: Problem[] = [];
  if (name.trim() === '') return [stop('empty', 'the name is empty')];
  const bad = [...new Set(name.match(/[<>:"/\\|?*\u0000-\u001f\u007f]/gu) ?? [])];
  if (bad.length > 0)
    problems.push(
      stop(
        'illegal',
        `${bad.map((c) => (c < ' ' || c === '\u007f' ? 'a control character' : c)).join(' ')} cannot stand in a file name`,
      ),
    );
  if (/[\p{Co}\p{Cs}\p{Cn}\u202a-\u202e\u2066-\u2069\u200e\u200f]/u.test(name))
    problems.push(
      stop(
        'unseen',
        'a name cannot hold characters without a meaning of their own, or that turn the direction of what follows',
      ),
    );
  if (/^[. ]|[. ]$/u.test(name))
    problems.push(stop('edge', 'a name cannot begin or end with a dot or a space'));
  if (DEVICE_NAMES.test(name)) problems.push(stop('device', `${name} is a device name on some systems`));
  // Room is kept for a suffix and an extension.
  if (new TextEncoder().encode(name).length > 230)
    problems.push(stop('long', 'the name is longer than 230 bytes'));
  if (name.startsWith('-'))
    problems.push({ level: 'look', code: 'dash', text: 'a leading dash is read as an option by many tools' });
  return problems;
}
