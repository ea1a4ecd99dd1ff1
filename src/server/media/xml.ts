import { XMLParser, XMLValidator } from 'fast-xml-parser';
import type { XmlNode } from '../../core/facts/sidecar';

const parser = new XMLParser({
  preserveOrder: true, ignoreAttributes: false, attributeNamePrefix: '', processEntities: false, removeNSPrefix: true, parseTagValue: false, parseAttributeValue: false,
});

const objects = new XMLParser({
  ignoreAttributes: false, attributeNamePrefix: '@_', removeNSPrefix: true, parseTagValue: false, parseAttributeValue: false, trimValues: false,
  // The five of XML itself and characters by number; a document type, which could declare others, is refused below.
  processEntities: true, htmlEntities: true,
});

/** Parses XML into an object: attributes under "@_name", text under "#text". `null` as `parseXml`. */
export function parseXmlObject(text: string): unknown {
  if (/<!(?:DOCTYPE|ENTITY)/i.test(text) || XMLValidator.validate(text) !== true) return null;
  return objects.parse(text) as unknown;
}

/**
 * Parses XML into plain nodes, entities off, so that nothing in a file is expanded or fetched. `null` where it is not
 * well-formed or declares a document type.
 */
export function parseXml(text: string): XmlNode | null {
  if (/<!(?:DOCTYPE|ENTITY)/i.test(text) || XMLValidator.validate(text) !== true) return null;
  const convert = (raw: Record<string, unknown>): XmlNode | null => {
    const name = Object.keys(raw).find((k) => k !== ':@');
    if (!name || name.startsWith('?') || name.startsWith('#')) return null;
    const children = raw[name];
    return {
      name,
      attributes: Object.fromEntries(Object.entries((raw[':@'] ?? {}) as Record<string, unknown>).map(([k, v]) => [k, String(v)])),
      children: Array.isArray(children) ? children.map((c) => convert(c as Record<string, unknown>)).filter((c) => c !== null) : [],
    };
  };
  const roots = (parser.parse(text) as Record<string, unknown>[]).map(convert).filter((n) => n !== null);
  return roots[0] ?? null;
}
