/** A parsed XML element: attributes, child elements, and the text directly in it. Names carry no namespace prefix. */
export interface XmlNode {
  name: string;
  attributes: Record<string, string>;
  children: XmlNode[];
  text: string;
}

/** Every element below one, itself first, no deeper than so many levels. */
export function* elements(node: XmlNode, depth = 32): Generator<XmlNode> {
  yield node;
  if (depth > 0) for (const c of node.children) yield* elements(c, depth - 1);
}

/** The first element of a name below one, whatever its case. */
export const find = (node: XmlNode, name: string): XmlNode | null => {
  for (const e of elements(node)) if (e.name.toLowerCase() === name.toLowerCase()) return e;
  return null;
};
