import { createRequire } from 'node:module';
import { copyFileSync, mkdirSync, mkdtempSync, realpathSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { FIELDS, type FieldId, formatValue } from '../src/core/facts/catalogue';
import { factsOf } from '../src/core/facts/facts';
import { numberOf, type Value } from '../src/core/facts/values';
import { DEFAULT_INTAKE } from '../src/core/intake';
import { look } from '../src/server/intake/look';
import { beginJob } from '../src/server/jobs/jobs';
import { addRoot } from '../src/server/places/roots';
import { join } from '../src/core/platform/names';
import { FFPROBE } from '../src/server/platform/media/tools';
import { endReaders, endTagReader, FOREIGN, readStatements } from '../src/server/reading';
import { openRuntime } from '../src/server/runtime';
import { TEST_JOB } from '../src/server/testing/media';
import { realFiles } from './facts-real/fetch';
import { JUDGED, type Judgement } from './facts-real/judged';
import {
  exiftool,
  exiv2,
  ffprobe,
  mediainfo,
  type Program,
  PROGRAMS,
  type Stated,
} from './facts-real/references';

// Every value that programs of others state of files that real devices wrote, held against what Sort Shelf says of them.

const types = DEFAULT_INTAKE.types;
const tool = createRequire(import.meta.url)
  .resolve('exiftool-vendored.pl')
  .replace(/index\.js$/, 'bin/exiftool');
const home = path.join(process.cwd(), '.cache', 'real-images');

const plain = (s: string): string => s.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

/** Whether a value of ours says what another program states. Numbers agree to a part in two hundred: programs round. */
function agrees(id: FieldId, ours: Value, theirs: string | number): boolean {
  if (typeof theirs === 'number') {
    const n = ours.type === 'text' ? Number(ours.text) : numberOf(ours);
    if (n === null || Number.isNaN(n)) return false;
    const least = id === 'length' ? 0.001 : 1e-9;
    return Math.abs(n - theirs) <= 0.005 * Math.max(Math.abs(n), Math.abs(theirs)) + least;
  }
  if (ours.type === 'moment') return ours.moment.local === theirs;
  const mine = plain(formatValue(ours));
  const other = plain(theirs);
  // Words are kept up to 400 characters.
  if (id === 'scan' || mine.length > 200) return mine.startsWith(other) || other.startsWith(mine);
  return mine === other;
}

interface Row {
  id: string;
  kind: string;
  field: FieldId;
  program: Program;
  theirs: string | number;
  ours: Value | null;
  verdict: 'agree' | 'differ' | 'lacking';
}

const files = realFiles(home, Object.values(types).flat());
const tags = exiftool(
  tool,
  files.map((f) => f.file),
);
const rows: Row[] = [];
const onlyOurs = new Map<FieldId, number>();
const faults: string[] = [];
let foreign = 0;
for (const { id, file } of files) {
  const extension = path.extname(file).slice(1).toLowerCase();
  const kind = types.video.includes(extension)
    ? 'video'
    : types.sound.includes(extension)
      ? 'sound'
      : 'still';
  const { size, mtimeMs } = statSync(file);
  const reading = await readStatements(
    {
      kind,
      cameraPath: path.basename(file),
      files: [{ role: 'original', file: file, size, modified: Math.round(mtimeMs) }],
    },
    { zoneMinutes: 0, stillsRate: 25 },
  );
  if (reading.fault !== null) {
    faults.push(`${id}.${extension} ${reading.fault}`);
    if (!reading.fault.includes(path.basename(file))) throw new Error(`no name in: ${reading.fault}`);
    continue;
  }
  if (reading.notes.includes(FOREIGN)) foreign++;
  const facts = factsOf(
    reading.statements.filter((s) => !['clock', 'fileTime', 'name', 'file'].includes(s.source)),
  );
  const theirs: Record<Program, Stated> = {
    ExifTool: tags.get(file) ?? {},
    Exiv2: kind === 'still' ? exiv2(file) : {},
    ffprobe: ffprobe(FFPROBE(), file, kind === 'still'),
    MediaInfo: mediainfo(file, kind === 'still'),
  };
  for (const { id: field } of FIELDS) {
    const ours = facts.get(field)?.chosen.value ?? null;
    const stating = PROGRAMS.filter((p) => theirs[p][field] !== undefined);
    if (ours && stating.length === 0) onlyOurs.set(field, (onlyOurs.get(field) ?? 0) + 1);
    for (const program of stating) {
      const value = theirs[program][field]!;
      rows.push({
        id,
        kind: extension,
        field,
        program,
        theirs: value,
        ours,
        verdict: ours === null ? 'lacking' : agrees(field, ours, value) ? 'agree' : 'differ',
      });
    }
  }
}

// What is looked at before it is copied: a folder of very mixed files, each of them a real device's.
const MIXED = 800;
const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-real-')));
const mixed = path.join(dir, 'mixed');
mkdirSync(mixed);
for (let i = 0; i < MIXED; i++) {
  const { file } = files[i % files.length]!;
  copyFileSync(file, path.join(mixed, `${String(i).padStart(4, '0')}${path.extname(file)}`));
}
const runtime = (await openRuntime({ home: path.join(dir, 'home'), work: false })).inJob(TEST_JOB);
await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const root = await addRoot(runtime, { kind: 'source', path: mixed });
const begun = performance.now();
const found = await look(runtime, root.id, '');
const lookSeconds = (performance.now() - begun) / 1000;
// A damaged file is in its clip and is listed with its reason besides.
const paths = found.cards.flatMap((c) => [
  ...c.aside.map((a) => join(c.folder, a.path)),
  ...c.clips.flatMap((x) => x.files.map((f) => join(c.folder, f.path))),
]);
const accounted = new Set([...paths, ...found.aside.map((a) => a.path)]).size;
if (accounted !== MIXED) throw new Error(`a look accounts for ${accounted} of ${MIXED} files`);
await runtime.close();
rmSync(dir, { recursive: true });
await Promise.all([endReaders(), endTagReader()]);

const allows = <T>(list: readonly T[] | undefined, value: T): boolean =>
  list === undefined || list.includes(value);
const judgement = (r: Row) =>
  JUDGED.find(
    (j) =>
      allows(j.files, r.id) &&
      allows(j.fields, r.field) &&
      allows(j.programs, r.program) &&
      (j.theirs === undefined || j.theirs.test(String(r.theirs))),
  );
const count = (v: Row['verdict'], field?: FieldId) =>
  rows.filter((r) => r.verdict === v && (field === undefined || r.field === field)).length;
console.log(
  `${files.length} files, ${faults.length} unreadable, ${foreign} that nothing here decodes, ${rows.length} values`,
);
console.log('field               agree differ lacking only ours');
for (const { id } of FIELDS) {
  const n = [count('agree', id), count('differ', id), count('lacking', id), onlyOurs.get(id) ?? 0];
  if (n.some((x) => x > 0))
    console.log(id.padEnd(20) + n.map((x, i) => String(x).padStart([5, 7, 8, 10][i]!)).join(''));
}
// Words that are a program's and no person's.
const unclear = faults.filter((f) =>
  /Invalid (?:data|argument)|End of file|File format error/i.test(f),
).length;
let wrong = 0;
let lacking = 0;
const used = new Map<Judgement, number>();
for (const r of rows.filter((x) => x.verdict !== 'agree')) {
  const j = judgement(r);
  if (j) {
    used.set(j, (used.get(j) ?? 0) + 1);
    continue;
  }
  if (r.verdict === 'lacking') lacking++;
  else wrong++;
  console.log(
    `${r.verdict} ${r.id}.${r.kind} ${r.field}: ${r.program} says ${JSON.stringify(r.theirs)}, here ${r.ours ? JSON.stringify(formatValue(r.ours)) : 'nothing'}`,
  );
}
for (const j of JUDGED) console.log(`judged ${String(used.get(j) ?? 0).padStart(3)} ${j.right}: ${j.why}`);
for (const f of faults) console.log(`unreadable ${f}`);
console.log(`figure facts-real.look_at_${MIXED}_s ${lookSeconds.toFixed(1)} bound 10`);
console.log(`figure facts-real.without_a_plain_reason ${unclear} bound 0`);
console.log(`figure facts-real.values ${rows.length} floor 3500`);
console.log(`figure facts-real.wrong_here ${wrong} bound 0`);
console.log(`figure facts-real.lacking_percent ${((100 * lacking) / rows.length).toFixed(2)} bound 2`);
