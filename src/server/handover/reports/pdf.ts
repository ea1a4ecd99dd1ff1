import pdfmake from 'pdfmake';
import type { Content, ContentText, TableCell, TDocumentDefinitions } from 'pdfmake/interfaces';
import {
  type Cell,
  MARK_WORDS,
  type Report,
  type ReportKind,
  type Section,
  type Tile,
} from '../../../core/handover';
import { FILMSTRIP } from '../../../core/analysis';
import { type Face, FACES, openFaces, runsOf } from './faces';

/** A report to be made a PDF, with pictures by clips' ids as JPEG in base64. */
export interface PdfTask {
  report: Report;
  pictures: ReadonlyMap<string, string>;
}

const INK = '#1E2733';
const SOFT = '#5B6470';
const RULE = '#BBBBBB';
const MARKS = { good: '#3F5A2E', look: '#7A530C', stop: '#A8442A' };
/** Points of an A4 page, and what stays free at its sides. */
const A4 = { short: 595.28, long: 841.89 };
const MARGIN = 34;
const GAP = 7;
const UPRIGHT: ReadonlySet<ReportKind> = new Set(['sheet', 'missing', 'wipe']);
const TILES = 4;

const isUpright = (kind: ReportKind): boolean => UPRIGHT.has(kind);
const roomOf = (kind: ReportKind): number => (isUpright(kind) ? A4.short : A4.long) - 2 * MARGIN;

interface How {
  face?: Face;
  size: number;
  width: number;
  color?: string;
  bold?: boolean;
}

const words = (text: string, { face = 'Text', size, width, color = INK, bold }: How): ContentText => ({
  text: runsOf(text, face, size, width),
  fontSize: size,
  color,
  ...(bold ? { bold } : {}),
});

/** A JPEG that begins and ends as one: a half one would spoil the whole document. */
const isWhole = (base64: string): boolean => {
  const bytes = Buffer.from(base64, 'base64');
  return (
    bytes.length > 4 && bytes.readUInt16BE(0) === 0xffd8 && bytes.readUInt16BE(bytes.length - 2) === 0xffd9
  );
};

/** Tables without lines between columns. */
const PLAIN = {
  vLineWidth: () => 0,
  hLineColor: () => RULE,
  paddingLeft: () => 0,
  paddingRight: () => GAP,
};

/** What a report's parts are laid out with. */
interface Layout {
  room: number;
  has: (clip: string) => boolean;
}

/** A clip's picture; an empty frame in its place where there is none. */
function picture({ has }: Layout, clip: string, width: number): Content {
  const height = (width * FILMSTRIP.height) / FILMSTRIP.width;
  if (has(clip)) return { image: clip, fit: [width, height] };
  return {
    stack: [
      { canvas: [{ type: 'rect', x: 0, y: 0, w: width, h: height, lineWidth: 0.5, lineColor: RULE }] },
      {
        ...words('no picture', { size: 7, width, color: SOFT }),
        relativePosition: { x: 5, y: -height / 2 - 4 },
      },
    ],
  };
}

function cellOf(layout: Layout, cell: Cell, how: How): TableCell {
  if (typeof cell === 'string') return words(cell, how);
  if ('picture' in cell) return picture(layout, cell.picture, how.width);
  return words(`${MARK_WORDS[cell.mark]} ${cell.text}`, { ...how, color: MARKS[cell.mark] });
}

/** What stands above the rows of a section, again on each page that they go on to. */
const headOf = (layout: Layout, { heading, about }: Section, columns: number): TableCell[] => [
  {
    stack: [
      {
        ...words(heading, { size: 10.5, width: layout.room, bold: true }),
        outline: true,
        margin: [0, 8, 0, 1],
      },
      ...(about === '' ? [] : [words(about, { size: 8.5, width: layout.room, color: SOFT })]),
    ],
    colSpan: columns,
  },
  ...Array.from({ length: columns - 1 }, () => ''),
];

function tableOf(
  layout: Layout,
  section: Section,
  { columns, rows }: NonNullable<Section['table']>,
): Content {
  const whole = columns.reduce((n, c) => n + c.width, 0);
  const widths = columns.map((c) => (c.width / whole) * layout.room - GAP);
  return {
    table: {
      headerRows: 2,
      keepWithHeaderRows: 1,
      dontBreakRows: true,
      widths,
      body: [
        headOf(layout, section, columns.length),
        columns.map((c, i) => words(c.head, { size: 7.5, width: widths[i]!, color: SOFT })),
        ...rows.map((row) =>
          row.map((cell, i) =>
            cellOf(layout, cell, {
              face: columns[i]!.exact ? 'Exact' : 'Text',
              size: columns[i]!.exact ? 7.5 : 8,
              width: widths[i]!,
            }),
          ),
        ),
      ],
    },
    layout: {
      ...PLAIN,
      hLineWidth: (i) => (i < 2 ? 0 : 0.5),
      paddingTop: () => 2.5,
      paddingBottom: () => 2.5,
    },
  };
}

/** A picture's name and lines below it. */
function tileOf(layout: Layout, tile: Tile, width: number): TableCell {
  return {
    stack: [
      picture(layout, tile.picture, width),
      { ...words(tile.name, { face: 'Exact', size: 7, width, bold: true }), margin: [0, 2, 0, 0] },
      ...tile.lines.map((l) => words(l, { size: 7, width, color: SOFT })),
    ],
  };
}

function tilesOf(layout: Layout, section: Section, tiles: readonly Tile[]): Content {
  const width = layout.room / TILES - GAP;
  const rows = Array.from({ length: Math.ceil(tiles.length / TILES) }, (_, r) =>
    Array.from({ length: TILES }, (_, c) => {
      const tile = tiles[r * TILES + c];
      return tile ? tileOf(layout, tile, width) : '';
    }),
  );
  return {
    table: {
      headerRows: 1,
      keepWithHeaderRows: 1,
      dontBreakRows: true,
      widths: Array.from({ length: TILES }, () => width),
      body: [headOf(layout, section, TILES), ...rows],
    },
    layout: { ...PLAIN, hLineWidth: () => 0, paddingTop: () => 0, paddingBottom: () => 9 },
  };
}

/** A heading of its own, or one with the rows below it; then what more is to be said. */
function sectionOf(layout: Layout, section: Section, isFirst: boolean): Content[] {
  const { room } = layout;
  const more = section.more.map((m): Content => ({
    ...words(m, { size: 8.5, width: room }),
    margin: [0, 3, 0, 0],
  }));
  if (section.table) return [tableOf(layout, section, section.table), ...more];
  if (section.tiles) return [tilesOf(layout, section, section.tiles), ...more];
  return [
    {
      ...words(section.heading, { size: 14, width: room, bold: true }),
      outline: true,
      ...(isFirst ? {} : { pageBreak: 'before' as const }),
    },
    words(section.about, { size: 8.5, width: room, color: SOFT }),
    ...more,
  ];
}

function documentOf(report: Report, layout: Layout): TDocumentDefinitions {
  const { room } = layout;
  const line = (text: string, how: Partial<How> = {}) => words(text, { size: 9, width: room, ...how });
  return {
    pageSize: 'A4',
    pageOrientation: isUpright(report.kind) ? 'portrait' : 'landscape',
    pageMargins: [MARGIN, MARGIN, MARGIN, MARGIN + 8],
    info: { title: `${report.job}: ${report.title}`, creator: 'Sort Shelf' },
    language: 'en',
    defaultStyle: { font: 'Text', fontSize: 8, color: INK },
    footer: (page, pages) => ({
      margin: [MARGIN, 8, MARGIN, 0],
      columns: [
        line(`${report.job} · ${report.title} · ${report.of}`, { size: 7.5, color: SOFT, width: room * 0.8 }),
        { text: `${page} of ${pages}`, fontSize: 7.5, color: SOFT, alignment: 'right', width: 60 },
      ],
    }),
    content: [
      line(report.title, { size: 19, bold: true }),
      { ...line([report.job, report.of, report.made].join(' · '), { color: SOFT }), margin: [0, 0, 0, 6] },
      ...report.summary.map((s) => cellOf(layout, s, { size: 9, width: room }) as Content),
      { text: ' ', fontSize: 4 },
      ...(report.sections.length === 0
        ? [line(report.none)]
        : report.sections.flatMap((s, i) => sectionOf(layout, s, i === 0))),
    ],
  };
}

let isSet = false;

/** The report as a PDF of A4 pages. */
export async function pdf({ report, pictures }: PdfTask): Promise<Uint8Array> {
  if (!isSet) {
    pdfmake.setFonts(FACES);
    // Nothing but the faces is read, and nothing fetched.
    const known = new Set(Object.values(FACES).flatMap((f) => Object.values(f as Record<string, string>)));
    pdfmake.setLocalAccessPolicy((path) => known.has(path));
    pdfmake.setUrlAccessPolicy(() => false);
    isSet = true;
  }
  await openFaces();
  const images = Object.fromEntries(
    [...pictures]
      .filter(([, data]) => isWhole(data))
      .map(([clip, data]) => [clip, `data:image/jpeg;base64,${data}`]),
  );
  const layout: Layout = { room: roomOf(report.kind), has: (clip) => Object.hasOwn(images, clip) };
  return pdfmake.createPdf({ ...documentOf(report, layout), images }).getBuffer();
}
