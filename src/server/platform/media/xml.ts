import { XMLParser, XMLValidator } from 'fast-xml-parser';
import type { XmlNode } from '../../../core/facts';

const parser = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  processEntities: false,
  removeNSPrefix: true,
  parseTagValue: false,
  parseAttributeValue: false,
});

const objects = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@_',
  removeNSPrefix: true,
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  // The five of XML itself and characters by number; a document type, which could declare others, is refused below.
  processEntities: true,
  htmlEntities: true,
});

/** Elements deeper than this are left out: no camera writes them, and deep nesting is an attack. */
const DEEPEST = 64;
/** The largest text that is parsed, characters. */
const LONGEST = 4 << 20;

/** The five entities of XML itself; any other unchanged written. */
const plain = (s: string): string =>
  s.replace(
    /&(lt|gt|amp|quot|apos);/g,
    (_, e: string) => ({ lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" })[e]!,
  );

/** Parses XML into an object: attributes under "@_name", text under "#text". `null` as `parseXml`. */
export function parseXmlObject(text: string): unknown {
  if (
    text.length > LONGEST ||
    tooDeep(text) ||
    /<!(?:DOCTYPE|ENTITY)/i.test(text) ||
    XMLValidator.validate(text) !== true
  )
    return null;
  return objects.parse(text) as unknown;
}

/**
 * Parses XML into plain nodes, entities off, so that nothing in a file is expanded or fetched. `null` where it is not
 * well-formed or declares a document type.
 */
export function parseXml(text: string): XmlNode | null {
  if (
    text.length > LONGEST ||
    tooDeep(text) ||
    /<!(?:DOCTYPE|ENTITY)/i.test(text) ||
    XMLValidator.validate(text) !== true
  )
    return null;
  const convert = (raw: Record<string, unknown>, depth: number): XmlNode | null => {
    const name = Object.keys(raw).find((k) => k !== ':@');
    if (!name || name.startsWith('?') || name.startsWith('#') || depth > DEEPEST) return null;
    const list = (Array.isArray(raw[name]) ? raw[name] : []) as Record<string, unknown>[];
    return {
      name,
      attributes: Object.fromEntries(
        Object.entries((raw[':@'] ?? {}) as Record<string, unknown>).map(([k, v]) => [k, String(v)]),
      ),
      children: list.map((c) => convert(c, depth + 1)).filter((c) => c !== null),
      text: plain(list.map((c) => (typeof c['#text'] === 'string' ? c['#text'] : '')).join('')),
    };
  };
  const roots = (parser.parse(text) as Record<string, unknown>[])
    .map((n) => convert(n, 0))
    .filter((n) => n !== null);
  return roots[0] ?? null;
}

/** Whether elements stand deeper in one another than any parser should follow. */
function tooDeep(text: string): boolean {
  let depth = 0;
  for (const m of text.matchAll(/<(\/?)[A-Za-z_][^<>]*?(\/?)>/g)) {
    depth += m[1] ? -1 : m[2] ? 0 : 1;
    if (depth > DEEPEST * 4) return true;
  }
  return false;
}
