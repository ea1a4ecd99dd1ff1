import { useMutation } from '@tanstack/react-query';
import { useServer } from '../platform/job';
import type { RowFilter } from '../../core/naming/compose';
import type { Undoable } from '../shell';
import type { Composer } from './composer';
import type { Column } from './TypedCell';

/** Lines and cells of a text from a spreadsheet; a line break at its end is none. */
const cellsOf = (text: string): string[][] =>
  text
    .replace(/\r\n?/gu, '\n')
    .replace(/\n$/u, '')
    .split('\n')
    .map((line) => line.split('\t'));

/** Keeps what is typed or pasted in the columns, as facts of the clips; `did` is told of it. */
export function useTyped(
  composer: Composer,
  filter: RowFilter,
  columns: readonly Column[],
  { did }: Pick<Undoable, 'did'>,
) {
  const server = useServer();
  const say = useMutation({
    mutationFn: async ({ column, index, text }: { column: Column; index: number; text: string }) => {
      const lines = cellsOf(text);
      const first = columns.findIndex((c) => c.field === column.field);
      const rows = await composer.rows(filter, index, index + lines.length);
      const said = rows.flatMap((row, i) =>
        lines[i]!.flatMap((value, k) => {
          const at = columns[first + k];
          return at ? [{ clip: row.clipId, field: at.field, value: value.trim() }] : [];
        }),
      );
      // One after the other is seen in its cell, and words over the list would be in the way.
      if (said.length > 0) did(await server.say(said), { seen: said.length === 1 });
    },
  });
  /** The same for several clips. */
  const fill = useMutation({
    mutationFn: ({ column, clips, value }: { column: Column; clips: readonly string[]; value: string }) =>
      server.say(clips.map((clip) => ({ clip, field: column.field, value }))),
    onSuccess: (changed) => did(changed),
  });
  return { say, fill };
}
