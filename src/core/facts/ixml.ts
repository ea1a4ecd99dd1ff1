import { parseRate, type Rate } from '../platform/timecode/rate';
import { Said, type Statement } from './catalogue';
import { elements, find, type XmlNode } from './xml';

/**
 * What the iXML chunk of a Broadcast Wave file says (the published iXML description, from memory): project, scene, take, tape, note,
 * circled, the device, and the names of its tracks.
 */
export function statementsFromIxml(root: XmlNode): Statement[] {
  const said = new Said('ixml');
  const text = (name: string): string | undefined => find(root, name)?.text;
  said
    .text('project', text('PROJECT'))
    .text('scene', text('SCENE'))
    .text('take', text('TAKE'))
    .text('reel', text('TAPE'))
    .text('comment', text('NOTE'))
    .text('uniqueId', text('FILE_UID') ?? text('UBITS'));
  const circled = text('CIRCLED')?.trim();
  if (circled) said.flag('circled', /^true$/i.test(circled));
  for (const [id, name] of [
    ['maker', 'IXML_MANUFACTURER'],
    ['model', 'IXML_MODEL'],
    ['serial', 'IXML_SERIAL'],
  ] as const)
    said.text(id, text(name));
  const rate = ixmlRate(root);
  if (rate) {
    said.value('timecodeRate', { type: 'rate', rate });
    said.flag('drop', /^DF$/i.test(text('TIMECODE_FLAG')?.trim() ?? ''));
  }
  const list = find(root, 'TRACK_LIST');
  if (list)
    said.text(
      'trackNames',
      [...elements(list)]
        .filter((e) => e.name === 'TRACK')
        .map((t) => find(t, 'NAME')?.text.trim() || '—')
        .slice(0, 64)
        .join(', '),
    );
  return said.statements;
}

/** The rate the recorder counted timecode at ("25/1"); `null` where it does not say. */
export function ixmlRate(root: XmlNode): Rate | null {
  return parseRate(find(root, 'TIMECODE_RATE')?.text ?? '');
}
