import { xmlText } from '../hashLists';
import { Said, type Statement } from './catalogue';
import { type Facts, numberIn } from './facts';
import { find, type XmlNode } from './xml';

type Triple = [number, number, number];
/** An ASC CDL: out = clamp(in · slope + offset) ^ power for each channel, then saturation by the weights of Rec. 709. */
export interface Cdl {
  id: string;
  slope: Triple;
  offset: Triple;
  power: Triple;
  saturation: number;
}

export const NEUTRAL: Cdl = { id: '', slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 };

const triple = (text: string | undefined): Triple | null => {
  const n = (text ?? '')
    .slice(0, 400)
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  return n.length === 3 && n.every(Number.isFinite) ? (n as Triple) : null;
};

/**
 * Reads the first correction of a `.cdl`, `.cc` or `.ccc` (ASC CDL 1.2, from memory). What is not stated is neutral. `null`
 * where there is none, or its values cannot be: slope below 0, power of 0 or below, saturation below 0.
 */
export function readCdl(root: XmlNode): Cdl | null {
  const correction = find(root, 'ColorCorrection');
  if (!correction) return null;
  const of = (name: string, neutral: Triple): Triple | null => {
    const node = find(correction, name);
    return node ? triple(node.text) : neutral;
  };
  const [slope, offset, power] = [
    of('Slope', NEUTRAL.slope),
    of('Offset', NEUTRAL.offset),
    of('Power', NEUTRAL.power),
  ];
  const stated = find(correction, 'Saturation');
  const saturation = stated ? Number(stated.text) : 1;
  if (
    !slope ||
    !offset ||
    !power ||
    !(saturation >= 0) ||
    slope.some((n) => n < 0) ||
    power.some((n) => n <= 0)
  )
    return null;
  return { id: correction.attributes.id ?? '', slope, offset, power, saturation };
}

/** Rec. 709 weights. */
const LUMA: Triple = [0.2126, 0.7152, 0.0722];
const clamp = (n: number): number => Math.min(1, Math.max(0, n));

/** What a CDL makes of a colour, channels from 0 to 1. */
export function applyCdl({ slope, offset, power, saturation }: Cdl, colour: Triple): Triple {
  const graded = colour.map((c, i) => clamp(c * slope[i]! + offset[i]!) ** power[i]!) as Triple;
  const luma = graded.reduce((n, c, i) => n + c * LUMA[i]!, 0);
  return graded.map((c) => clamp(luma + saturation * (c - luma))) as Triple;
}

/** The CDL that the chosen facts of a clip state; null where they state none. What is not stated of it is neutral. */
export function cdlOf(facts: Facts): Cdl | null {
  const of = (id: 'slope' | 'offset' | 'power'): Triple | null => {
    const value = facts.get(id)?.chosen.value;
    return value?.type === 'triple' ? value.triple : null;
  };
  const [slope, offset, power] = [of('slope'), of('offset'), of('power')];
  const saturation = numberIn(facts, 'saturation');
  if (!slope && !offset && !power && saturation === null) return null;
  return {
    id: '',
    slope: slope ?? NEUTRAL.slope,
    offset: offset ?? NEUTRAL.offset,
    power: power ?? NEUTRAL.power,
    saturation: saturation ?? 1,
  };
}

/** Corrections as one ColorCorrectionCollection (`.ccc`, ASC CDL 1.2, from memory), in which each has the id that it is given; ids differ. */
export function cdlCollection(corrections: readonly Cdl[]): string {
  const numbers = (values: readonly number[]): string => values.map((n) => Number(n.toFixed(6))).join(' ');
  const each = corrections.map(
    ({ id, slope, offset, power, saturation }) => `  <ColorCorrection id="${xmlText(id)}">
    <SOPNode>
      <Slope>${numbers(slope)}</Slope>
      <Offset>${numbers(offset)}</Offset>
      <Power>${numbers(power)}</Power>
    </SOPNode>
    <SatNode>
      <Saturation>${numbers([saturation])}</Saturation>
    </SatNode>
  </ColorCorrection>`,
  );
  return `<?xml version="1.0" encoding="UTF-8"?>
<ColorCorrectionCollection xmlns="urn:ASC:CDL:v1.01">
${each.join('\n')}
</ColorCorrectionCollection>
`;
}

/** Points of each side of a CDL's table. */
const POINTS = 33;

/** What a CDL makes of the colours between 0 and 1, as a `.cube` file: red changes fastest. */
export function cdlCube(cdl: Cdl): string {
  const at = (i: number): number => i / (POINTS - 1);
  const lines = [`LUT_3D_SIZE ${POINTS}`];
  for (let b = 0; b < POINTS; b++)
    for (let g = 0; g < POINTS; g++)
      for (let r = 0; r < POINTS; r++)
        lines.push(
          applyCdl(cdl, [at(r), at(g), at(b)])
            .map((n) => n.toFixed(6))
            .join(' '),
        );
  return `${lines.join('\n')}\n`;
}

/** The head of a `.cube` file: its title, and its kind with the points of each side. `null` where it is no lookup table. */
export function readCube(text: string): { title: string; kind: '1D' | '3D'; points: number } | null {
  const size = /^[ \t]{0,16}LUT_(1D|3D)_SIZE[ \t]{1,16}(\d{1,5})[ \t]{0,16}$/m.exec(text);
  if (!size || Number(size[2]) < 2) return null;
  return {
    title: /^[ \t]{0,16}TITLE[ \t]{1,16}"([^"\n]{0,400})"/m.exec(text)?.[1] ?? '',
    kind: size[1] as '1D' | '3D',
    points: Number(size[2]),
  };
}

/** What a look file states of its clip. */
export function statementsFromLook(look: {
  cdl: Cdl | null;
  cube: ReturnType<typeof readCube>;
  name: string;
}): Statement[] {
  const said = new Said('look');
  const { cdl, cube } = look;
  said.text('lookName', cdl?.id || cube?.title || look.name);
  if (cdl) {
    for (const id of ['slope', 'offset', 'power'] as const)
      said.value(id, { type: 'triple', triple: cdl[id] });
    said.number('saturation', cdl.saturation);
  }
  if (cube) said.text('lut', `${cube.kind}, ${cube.points} points`);
  return cdl || cube ? said.statements : [];
}
