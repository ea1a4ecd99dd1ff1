import * as z from 'zod';
import { Finish, FINISH, type BlockModule } from './block';
import { camera } from './camera';
import { card } from './card';
import { counter } from './counter';
import { date } from './date';
import { day } from './day';
import { job } from './job';
import { keyword } from './keyword';
import { original } from './original';
import { rate } from './rate';
import { size } from './size';
import { codec, fact, gamma, listed, look, place, scene, shooter, take } from './stated';
import { time } from './time';
import { words } from './words';

/** All kinds of blocks, in the order in which they are offered. */
export const BLOCKS = [
  job,
  day,
  date,
  time,
  camera,
  card,
  rate,
  size,
  codec,
  gamma,
  look,
  scene,
  take,
  place,
  shooter,
  keyword,
  fact,
  original,
  listed,
  words,
  counter,
] as const;
export type BlockKind = (typeof BLOCKS)[number]['kind'];
export const BlockKind = z.enum(BLOCKS.map((b) => b.kind) as [BlockKind, ...BlockKind[]]);

const byKind = new Map<string, BlockModule>(BLOCKS.map((b) => [b.kind, b]));
export const moduleOf = (kind: BlockKind): BlockModule => byKind.get(kind)!;

/** One part of a name. `id` tells two blocks of a kind apart while they are moved about; `own` are the settings of its kind. */
export const Block = Finish.extend({
  id: z.string().min(1).max(40),
  kind: BlockKind,
  own: z.record(z.string(), z.unknown()),
}).transform((block, context) => {
  const own = moduleOf(block.kind).own.safeParse(block.own);
  if (own.success) return { ...block, own: own.data };
  for (const issue of own.error.issues)
    context.addIssue({
      code: 'custom',
      path: ['own', ...issue.path],
      message: `${moduleOf(block.kind).term}: ${issue.message}`,
    });
  return z.NEVER;
});
export type Block = z.infer<typeof Block>;

/** A new block of a kind with the settings most jobs want, and those given. */
export function newBlock(
  kind: BlockKind,
  id: string = kind,
  own: Record<string, unknown> = {},
  finish: Partial<Finish> = {},
): Block {
  const module = moduleOf(kind);
  return { ...FINISH, ...module.finish, ...finish, id, kind, own: { ...module.fresh, ...own } };
}
