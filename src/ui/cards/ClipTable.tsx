'use client';
import { memo, useMemo } from 'react';
import { DataGrid, type GridColDef, type GridRowSelectionModel } from '@mui/x-data-grid';
import { formatRate } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import type { ClipView } from '../../core/cards/shapes';
import { FIGURE_FACE } from '../platform/theme';
import { formatBytes } from '../platform/format';
import { isMoving } from '../../core/intake';
import { PairMark } from '../platform/PairMark';
import { Tag } from '../platform/Tag';
import { type Point, useHoverPreview } from './HoverPreview';

const FIGURES = 'cell-figures';
/** The grid shows no more rows at once; beyond that it has pages. */
const PAGE = 100;

const NAME: GridColDef<ClipView> = { field: 'name', headerName: 'Name', width: 184, cellClassName: FIGURES };
const COLUMNS: GridColDef<ClipView>[] = [
  { field: 'start', headerName: 'Start', width: 112, cellClassName: FIGURES },
  {
    field: 'seconds',
    headerName: 'Length',
    width: 70,
    cellClassName: FIGURES,
    align: 'right',
    headerAlign: 'right',
    valueFormatter: (v: number | null) => (v === null ? '' : formatRunningTime(v)),
  },
  {
    field: 'rate',
    headerName: 'fps',
    width: 64,
    cellClassName: FIGURES,
    align: 'right',
    headerAlign: 'right',
    valueGetter: (_, row) => (row.rate ? row.rate.num / row.rate.den : null),
    renderCell: ({ row }) => (row.rate ? formatRate(row.rate) : ''),
  },
  {
    field: 'pair',
    headerName: 'Pair',
    width: 118,
    valueGetter: (_, row) => row.pair.state,
    renderCell: ({ row }) =>
      row.state === 'read' && isMoving(row.kind) ? <PairMark state={row.pair.state} words /> : null,
  },
  {
    field: 'problems',
    headerName: 'To look at',
    width: 190,
    valueGetter: (_, row) => row.problems.length,
    renderCell: ({ row }) =>
      row.problems[0] ? (
        <span
          title={row.problems.map((p) => p.text).join('\n')}
          style={{ overflow: 'hidden', textOverflow: 'ellipsis' }}
        >
          <Tag tone={row.problems[0].level}>{row.problems[0].text}</Tag>
        </span>
      ) : null,
  },
  { field: 'original', headerName: 'Camera name', width: 108, cellClassName: FIGURES },
  { field: 'codec', headerName: 'Codec', width: 84 },
  { field: 'picture', headerName: 'Picture', width: 200, cellClassName: FIGURES },
  {
    field: 'channels',
    headerName: 'Audio',
    width: 64,
    cellClassName: FIGURES,
    align: 'right',
    headerAlign: 'right',
  },
  {
    field: 'recordedAt',
    headerName: 'Recorded',
    width: 160,
    cellClassName: FIGURES,
    valueFormatter: (v: string | null) => v?.replace('T', ' ') ?? '',
  },
  {
    field: 'bytes',
    headerName: 'Size',
    width: 84,
    cellClassName: FIGURES,
    align: 'right',
    headerAlign: 'right',
    valueFormatter: formatBytes,
  },
];

interface Props {
  clips: readonly ClipView[];
  chosen: ReadonlySet<string>;
  setChosen: (clips: string[], focus: string | null) => void;
}

/** The same clips as a table; the selection is shared with the spines. Pointing at a name shows its frames, from left to right. */
export function ClipTable(props: Props) {
  const { preview, point, leave } = useHoverPreview('along');
  return (
    <>
      <Grid {...props} point={point} leave={leave} />
      {preview}
    </>
  );
}

/** Not drawn anew for each move of the pointer. */
const Grid = memo(function Grid({
  clips,
  chosen,
  setChosen,
  point,
  leave,
}: Props & { point: Point; leave: () => void }) {
  const columns = useMemo(
    (): GridColDef<ClipView>[] => [
      {
        ...NAME,
        renderCell: ({ row }) => (
          <span style={{ display: 'block' }} onPointerMove={point(row)} onPointerLeave={leave}>
            {row.name}
          </span>
        ),
      },
      ...COLUMNS,
    ],
    [point, leave],
  );
  const model: GridRowSelectionModel = { type: 'include', ids: new Set(chosen) };
  return (
    <DataGrid
      rows={clips}
      columns={columns}
      density="compact"
      checkboxSelection
      hideFooter={clips.length <= PAGE}
      pageSizeOptions={[PAGE]}
      initialState={{ pagination: { paginationModel: { pageSize: PAGE } } }}
      rowSelectionModel={model}
      aria-label="Clips"
      onRowSelectionModelChange={(m) =>
        setChosen(
          m.type === 'include'
            ? [...m.ids].map(String)
            : clips.map((c) => c.id).filter((id) => !m.ids.has(id)),
          null,
        )
      }
      onRowClick={({ id }) => setChosen([String(id)], String(id))}
      sx={{
        border: 0,
        bgcolor: 'var(--paper)',
        [`& .${FIGURES}`]: { fontFamily: FIGURE_FACE, fontSize: 12.5, fontVariantLigatures: 'none' },
        '--DataGrid-t-header-background-base': 'var(--label)',
      }}
    />
  );
});
