import { Said, type Statement } from './catalogue';
import { parseMoment } from './moments';

/**
 * What a camera's name and its folders say (common practice): a reel like "A001" at the start of the name or as a folder,
 * whose letter is the camera's; a date with a time ("20260506_142205"). `path` is below the root, "/" between the parts.
 */
export function statementsFromName(path: string): Statement[] {
  const said = new Said('name');
  const parts = path.split('/');
  const name = parts.at(-1)!.replace(/\.[^.]*$/, '');
  const reel = [name, ...parts.slice(0, -1).reverse()]
    .map((p) => /^([A-Z])(\d{3})(?![0-9A-Za-z])/.exec(p))
    .find((m) => m !== null);
  if (reel) said.text('reel', reel[1]! + reel[2]!).text('cameraName', reel[1]);
  const stamp = /(?:^|\D)(\d{4})-?(\d\d)-?(\d\d)[T_ -]?(\d\d)[:.-]?(\d\d)[:.-]?(\d\d)(?!\d)/.exec(name);
  if (stamp) {
    const [, y, mo, d, h, mi, s] = stamp;
    const moment = parseMoment(`${y}-${mo}-${d}T${h}:${mi}:${s}`, 0);
    said.value('recordedAt', moment && { type: 'moment', moment });
  }
  return said.statements;
}
