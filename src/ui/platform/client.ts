import { z } from 'zod';
import { type DiskPath, ShownPath } from '../../core/platform/names';
import { CheckReport, WipeView, type CheckFolder } from '../../core/custody';
import {
  OffloadDetail,
  OffloadView,
  type NewOffload,
  type OffloadAction,
  StandInsView,
  type StandInAction,
} from '../../core/offload';
import {
  ClocksView,
  Extracted,
  FactTable,
  FieldSetsView,
  SideBySide,
  Stated,
  type Clock,
  type Correction,
  type Extraction,
  type FieldId,
  type FieldSet,
  type FieldSetFile,
} from '../../core/facts';
import { Rescued, RescueView, type RescueChoice } from '../../core/records';
import { CardView, ClipDetail, ClipView } from '../../core/cards';
import { FolderView, Looked, LookedFacts, type TakeIn } from '../../core/intake';
import { JobView, type JobSettings, type NewJob } from '../../core/jobs';
import { LogEntry } from '../../core/logbook';
import {
  NamingPreview,
  PlanDetail,
  PlanResult,
  type ApplyRequest,
  type NamingRequest,
} from '../../core/naming';
import { ProblemDetails, TaskBegun, TaskView, WorkSummary } from '../../core/platform/shapes';
import { ProxiesView } from '../../core/proxies';
import { WallView } from '../../core/overview';
import type { NewRoot } from '../../core/places';
import type { WorkAction } from '../../core/platform/shapes';

// Pages may run no code that is made of text; Zod would try whether it can.
z.config({ jitless: true });

/** What the server answered instead of a result: what happened, to which file, and what to do. */
export class ServerProblem extends Error {
  constructor(readonly details: ProblemDetails) {
    super(details.detail);
  }
}

async function call<T extends z.ZodType>(shape: T, path: string, init?: RequestInit): Promise<z.infer<T>> {
  const response = await fetch(`/api/${path}`, init).catch(() => {
    throw new ServerProblem({
      type: 'about:blank',
      title: 'No answer',
      status: 0,
      detail: 'Sort Shelf does not answer.',
      next: 'Is it still running? Nothing is lost: work goes on where it stopped.',
    });
  });
  const body: unknown = await response.json().catch(() => null);
  if (!response.ok) {
    const problem = ProblemDetails.safeParse(body);
    throw new ServerProblem(
      problem.success
        ? problem.data
        : {
            type: 'about:blank',
            title: 'Unexpected',
            status: response.status,
            detail: `The server answered ${response.status}.`,
          },
    );
  }
  return shape.parse(body);
}

const segment = encodeURIComponent;

const send = <T extends z.ZodType>(shape: T, method: 'POST' | 'PATCH', path: string, body: unknown = {}) =>
  call(shape, path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

/** Begins long work and waits for its end, asking how it stands; what went wrong is thrown as for any other call. */
async function whole<T extends z.ZodType>(shape: T, path: string, body: unknown = {}): Promise<z.infer<T>> {
  const { task } = await send(TaskBegun, 'POST', path, body);
  for (let pause = 60; ; pause = Math.min(800, pause * 1.5)) {
    await new Promise((r) => setTimeout(r, pause));
    const now = await call(TaskView, `tasks/${segment(task)}`);
    if (now.problem) throw new ServerProblem(now.problem);
    if (now.state !== 'running') return shape.parse(now.result);
  }
}

export const CardPage = CardView.extend({
  asideFiles: z.array(z.object({ path: ShownPath, size: z.number(), reason: z.string() })),
  views: z.array(ClipView),
});
export type CardPage = z.infer<typeof CardPage>;

/** Everything the interface asks of the server. */
export const server = {
  job: () => call(JobView.nullable(), 'job'),
  rescueView: (also: readonly DiskPath[]) =>
    call(RescueView, `rescue?${new URLSearchParams(also.map((a) => ['also', a])).toString()}`),
  rescue: (choice: RescueChoice) => send(Rescued, 'POST', 'rescue', choice),
  beginJob: (job: NewJob) => send(z.unknown(), 'POST', 'job', job),
  saveSettings: (settings: z.infer<typeof JobSettings>) => send(z.unknown(), 'PATCH', 'job', settings),
  removeRoot: (id: string) => call(z.unknown(), `roots/${segment(id)}`, { method: 'DELETE' }),
  addRoot: (root: NewRoot) => send(z.object({ id: z.string() }), 'POST', 'roots', root),
  folder: (root: string, path: DiskPath) =>
    call(FolderView, `folders?root=${segment(root)}&path=${segment(path)}`),
  look: (root: string, path: DiskPath, singles: readonly DiskPath[] = []) =>
    send(Looked, 'POST', 'intake/look', { root, path, singles }),
  lookedFacts: (root: string, path: DiskPath) =>
    call(LookedFacts, `intake/facts?root=${segment(root)}&path=${segment(path)}`),
  takeIn: (wanted: TakeIn) =>
    send(
      z.object({ cards: z.array(z.object({ id: z.string(), clips: z.int() })) }),
      'POST',
      'intake',
      wanted,
    ),
  offloads: () => call(z.array(OffloadView), 'offloads'),
  beginOffload: (wanted: NewOffload) => send(z.object({ id: z.string() }), 'POST', 'offloads', wanted),
  offload: (id: string) => call(OffloadDetail, `offloads/${segment(id)}`),
  changeOffload: (id: string, action: OffloadAction) =>
    send(z.unknown(), 'POST', `offloads/${segment(id)}`, action),
  tasks: () => call(z.array(TaskView), 'tasks'),
  stopTask: (id: string) => call(z.unknown(), `tasks/${segment(id)}`, { method: 'DELETE' }),
  countCopies: (how: { offlineCounts: boolean } | { serversApart: boolean }) =>
    send(z.unknown(), 'PATCH', 'job', how),
  wipe: (card: string) => call(WipeView, `cards/${segment(card)}/wipe`),
  checkAgain: (copy: string) => whole(CheckReport, `copies/${segment(copy)}`),
  checkFolder: (wanted: CheckFolder) => whole(CheckReport, 'check', wanted),
  standIns: () => call(StandInsView.nullable(), 'stand-ins'),
  changeStandIn: (action: StandInAction) => send(z.unknown(), 'POST', 'stand-ins', action),
  wall: () => call(WallView, 'wall'),
  card: (id: string) => call(CardPage, `cards/${segment(id)}`),
  forgetCard: (id: string) => call(z.unknown(), `cards/${segment(id)}`, { method: 'DELETE' }),
  clip: (id: string) => call(ClipDetail, `clips/${segment(id)}`),
  readAgain: (clips: string[]) => send(z.object({ added: z.int() }), 'POST', 'clips/read', { clips }),
  previewNames: (request: NamingRequest) => send(NamingPreview, 'POST', 'naming/preview', request),
  applyNames: (request: z.infer<typeof ApplyRequest>) => whole(PlanResult, 'naming/apply', request),
  log: () => call(z.array(LogEntry), 'log'),
  plan: (id: string) => call(PlanDetail, `plans/${segment(id)}`),
  undo: (id: string) => whole(PlanResult, `plans/${segment(id)}/undo`),
  proxies: () => call(ProxiesView, 'proxies'),
  makeProxies: (clips: string[]) => send(z.object({ added: z.int() }), 'POST', 'proxies', { clips }),
  provePairs: (clips: string[]) => whole(z.object({ checked: z.int() }), 'pairs', { clips }),
  work: () => call(WorkSummary, 'work'),
  factTable: (fields: readonly FieldId[]) => send(FactTable, 'POST', 'facts/table', { fields }),
  sideBySide: (clips: readonly string[]) => send(SideBySide, 'POST', 'facts/compare', { clips }),
  stated: () => call(Stated, 'facts/stated'),
  extract: (wanted: Extraction) => send(Extracted, 'POST', 'facts/extract', wanted),
  fieldSets: () => call(FieldSetsView, 'facts/sets'),
  saveFieldSet: (set: FieldSet) => send(z.object({ id: z.string() }), 'POST', 'facts/sets', set),
  importFieldSets: (file: FieldSetFile) => send(z.object({ added: z.int() }), 'POST', 'facts/sets', file),
  dropFieldSet: (id: string) => call(z.unknown(), `facts/sets/${segment(id)}`, { method: 'DELETE' }),
  clocks: () => call(ClocksView, 'clocks'),
  suspicions: () => call(z.object({ count: z.int() }), 'clocks/count'),
  setClock: (clock: Clock) => send(z.object({ id: z.string() }), 'POST', 'clocks', clock),
  dropClock: (id: string) => call(z.unknown(), `clocks/${segment(id)}`, { method: 'DELETE' }),
  correct: (correction: Correction) =>
    send(z.object({ changed: z.int() }), 'POST', 'clips/correct', correction),
  scan: (card: string | null) =>
    send(z.object({ same: z.int(), again: z.int(), missing: z.array(z.string()) }), 'POST', 'clips/scan', {
      card,
    }),
  changeWork: (action: z.infer<typeof WorkAction>) =>
    send(z.object({ changed: z.int() }), 'POST', 'work', action),
};

export const lookedStripUrl = (root: string, path: DiskPath): string =>
  `/api/intake/strip?root=${segment(root)}&path=${segment(path)}`;
export const lookedPlayUrl = (root: string, path: DiskPath): string =>
  `/api/intake/play?root=${segment(root)}&path=${segment(path)}`;
export const receiptUrl = (card: string, as: 'html' | 'json'): string =>
  `/api/cards/${segment(card)}/receipt?as=${as}`;
export const filmstripUrl = (clip: string): string => `/api/clips/${segment(clip)}/filmstrip`;
export const mediaUrl = (clip: string, which: 'original' | 'proxy'): string =>
  `/api/clips/${segment(clip)}/media?which=${which}`;
export const frameUrl = (clip: string, which: 'original' | 'proxy', frame: number, width: number): string =>
  `/api/clips/${segment(clip)}/frame?which=${which}&frame=${frame}&width=${width}`;
