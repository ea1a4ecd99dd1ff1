import * as z from 'zod';
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
  FactLines,
  FactPage,
  FactSums,
  FieldSetsView,
  SideBySide,
  Stated,
  UnreadClip,
  type Clock,
  type Correction,
  type Extraction,
  type FactIdsQuery,
  type FactLinesQuery,
  type FactPageQuery,
  type FieldSet,
  type FieldSetFile,
  type Sayings,
} from '../../core/facts';
import { CopiedJobs, type NewFromCopy, Rescued, RescueView, type RescueChoice } from '../../core/records';
import { type Third, Waveform } from '../../core/analysis';
import { CardName, CardView, ClipDetail, ClipView } from '../../core/cards';
import {
  type Change,
  ChooseView,
  ClipMarks,
  type FindIds,
  type FindQuery,
  FolderLevel,
  Found,
  HeardOf,
  RangesFound,
  type RangesQuery,
  type SearchFile,
  StringOutDetail,
} from '../../core/choose';
import {
  EditName,
  type EditRate,
  EditView,
  EventsFound,
  type EventsQuery,
  Mended,
  type MendRequest,
  type Form,
  type FormFile,
  FormsView,
  type ListIn,
  ListTaken,
  ListView,
  type NewEdit,
  type NewPackage,
  type PackageAction,
  PackageName,
  PackagePlan,
  PackageView,
  type RehearsalQuery,
  RehearsalView,
} from '../../core/handover';
import { FirstLook, FolderView, Looked, LookedFacts, PlaceGlance, type TakeIn } from '../../core/intake';
import { JobSummary, JobView, type JobAction, type JobSettings, type NewJob } from '../../core/jobs';
import { LogPage, type LogQuery } from '../../core/logbook';
import {
  ChangedClip,
  JournalChanges,
  JournalUndone,
  KeptView,
  type SkeletonRequest,
  SkeletonView,
  type Coming,
  ComingClips,
  NamingData,
  PlanDetail,
  PlanResult,
  type ApplyRequest,
  type Kept,
  type StandingQuery,
} from '../../core/naming';
import {
  Changed,
  OPEN_WORK,
  ProblemDetails,
  TaskBegun,
  TaskView,
  WorkSummary,
} from '../../core/platform/shapes';
import {
  type Adopt,
  AdoptionView,
  type AdoptSearch,
  Compared,
  LostView,
  TakenFound,
  type TakeFound,
  type PairAction,
  ProxiesView,
  type Recipe,
  type RecipeFile,
  RecipesView,
  type Part,
  Trial,
  type TryRecipe,
  WatchedThrough,
} from '../../core/proxies';
import { WallView } from '../../core/overview';
import {
  BegunJob,
  TakenParts,
  TemplatesView,
  type KeepTemplate,
  type NewFromTemplate,
  type TakeParts,
  type TemplateFile,
} from '../../core/templates';
import {
  MovedPlace,
  MovePlan,
  OutsideFolder,
  PlacesView,
  type NewFolder,
  type NewRoot,
  type RootChange,
} from '../../core/places';
import { type NextAnswer, NextView } from '../../core/next';
import { WatchViews, type NewWatch, type WatchOptions } from '../../core/watch';
import type { WorkAction } from '../../core/platform/shapes';

// Pages may run no code that is made of text; Zod would try whether it can.
z.config({ jitless: true });

/** What the server answered instead of a result: what happened, to which file, and what to do. */
export class ServerProblem extends Error {
  constructor(readonly details: ProblemDetails) {
    super(details.detail);
  }
}

/** Waits for what comes from the server; throws ServerProblem where nothing does, or not to its end. */
const heard = <T>(coming: Promise<T>, signal?: AbortSignal | null): Promise<T> =>
  coming.catch((e: unknown) => {
    if (signal?.aborted) throw e;
    throw new ServerProblem({
      type: 'about:blank',
      title: 'No answer',
      status: 0,
      detail: 'Sort Shelf does not answer.',
      next: 'Is it still running? Nothing is lost: work goes on where it stopped.',
    });
  });

/** Throws ServerProblem where what came is not of the shape that this page knows. */
function understood<T extends z.ZodType>(shape: T, came: unknown): z.infer<T> {
  const read = shape.safeParse(came);
  if (read.success) return read.data;
  console.error(read.error);
  throw new ServerProblem({
    type: 'about:blank',
    title: 'Not understood',
    status: 0,
    detail: 'This page does not understand what Sort Shelf answers: it may be of an earlier version.',
    next: 'Reload the page.',
  });
}

/** Throws ServerProblem where the answer is none. */
async function ask(path: string, init?: RequestInit): Promise<Response> {
  const response = await heard(fetch(`/api/${path}`, init), init?.signal);
  if (response.ok) return response;
  const problem = ProblemDetails.safeParse(await response.json().catch(() => null));
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

const call = async <T extends z.ZodType>(shape: T, path: string, init?: RequestInit): Promise<z.infer<T>> =>
  understood(shape, await heard((await ask(path, init)).json() as Promise<unknown>, init?.signal));

/** Has the browser save what is answered, under the name that the server gives it. */
async function save(path: string): Promise<void> {
  const response = await ask(path);
  const said = /filename\*=UTF-8''([^;]*)/.exec(response.headers.get('content-disposition') ?? '');
  const link = document.createElement('a');
  link.href = URL.createObjectURL(await heard(response.blob()));
  link.download = said ? decodeURIComponent(said[1]!) : '';
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}

const segment = encodeURIComponent;

/** Characters that can outlive their page: browsers allow 64 KiB (Fetch standard), a character taking three bytes at most. */
const KEPT_ALIVE = 21_000;

const send = <T extends z.ZodType>(
  shape: T,
  method: 'POST' | 'PATCH',
  path: string,
  body: unknown = {},
  init: RequestInit = {},
) =>
  call(shape, path, {
    ...init,
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });

/** Begins long work and waits for its end, asking how it stands; what went wrong is thrown as for any other call. */
async function whole<T extends z.ZodType>(shape: T, path: string, body: unknown = {}): Promise<z.infer<T>> {
  const { task } = await send(TaskBegun, 'POST', path, body);
  for (let pause = 60; ; pause = Math.min(800, pause * 1.5)) {
    await new Promise((r) => setTimeout(r, pause));
    const now = await call(TaskView, `platform/tasks/${segment(task)}`);
    if (now.state === 'done') return understood(shape, now.result);
    if (now.problem && !OPEN_WORK.some((s) => s === now.state)) throw new ServerProblem(now.problem);
  }
}

export const CardPage = CardView.extend({
  asideFiles: z.array(z.object({ path: ShownPath, size: z.number(), reason: z.string() })),
  views: z.array(ClipView),
});
export type CardPage = z.infer<typeof CardPage>;

/** A change as it is asked for. */
export type ChangeAsked = z.input<typeof Change>;

/** What the interface asks of the server outside of any job. */
export const library = {
  jobs: () => call(z.array(JobSummary), 'jobs'),
  beginJob: (job: NewJob) => send(z.object({ code: z.string() }), 'POST', 'jobs', job),
  rescueView: (also: readonly DiskPath[]) =>
    call(RescueView, `records/rescue?${new URLSearchParams(also.map((a) => ['also', a])).toString()}`),
  rescue: (choice: RescueChoice) => send(Rescued, 'POST', 'records/rescue', choice),
  removeRoot: (id: string) => call(z.unknown(), `places/roots/${segment(id)}`, { method: 'DELETE' }),
  addRoot: (root: NewRoot) => send(z.object({ id: z.string() }), 'POST', 'places/roots', root),
  templates: () => call(TemplatesView, 'templates'),
  importTemplates: (file: TemplateFile) =>
    send(z.object({ added: z.array(z.string()) }), 'POST', 'templates/import', file),
  dropTemplate: (id: string) => call(z.unknown(), `templates/${segment(id)}`, { method: 'DELETE' }),
  beginFromTemplate: (job: NewFromTemplate) => send(BegunJob, 'POST', 'templates/begin', job),
  /** The jobs whose own folder a folder was copied from. */
  copiedJobs: (folder: string) => call(CopiedJobs, `records/copied?folder=${segment(folder)}`),
  beginFromCopy: (job: NewFromCopy) => send(BegunJob, 'POST', 'records/copied', job),
  changeRoot: (id: string, change: RootChange) =>
    send(z.unknown(), 'PATCH', `places/roots/${segment(id)}`, change),
  places: () => call(PlacesView, 'places'),
  /** A folder anywhere on the server's computer; the person's own where none is named. */
  outside: (path: string | null) =>
    call(OutsideFolder, path === null ? 'places/folders' : `places/folders?path=${segment(path)}`),
  newFolder: (folder: NewFolder) => send(z.object({ path: z.string() }), 'POST', 'places/folders', folder),
  tasks: () => call(z.array(TaskView), 'platform/tasks'),
  stopTask: (id: string) => call(z.unknown(), `platform/tasks/${segment(id)}`, { method: 'DELETE' }),
  standIns: () => call(StandInsView.nullable(), 'offload/stand-ins'),
  changeStandIn: (action: StandInAction) => send(z.unknown(), 'POST', 'offload/stand-ins', action),
  fieldSets: () => call(FieldSetsView, 'facts/sets'),
  saveFieldSet: (set: FieldSet) => send(z.object({ id: z.string() }), 'POST', 'facts/sets', set),
  importFieldSets: (file: FieldSetFile) => send(z.object({ added: z.int() }), 'POST', 'facts/sets', file),
  dropFieldSet: (id: string) => call(z.unknown(), `facts/sets/${segment(id)}`, { method: 'DELETE' }),
  recipes: () => call(RecipesView, 'proxies/recipes'),
  keepRecipe: (recipe: Recipe) => send(z.object({ id: z.string() }), 'POST', 'proxies/recipes', recipe),
  importRecipes: (file: RecipeFile) =>
    send(z.object({ added: z.int() }), 'POST', 'proxies/recipes/import', file),
  dropRecipe: (id: string) => call(z.unknown(), `proxies/recipes/${segment(id)}`, { method: 'DELETE' }),
  forms: () => call(FormsView, 'handover/forms'),
  keepForm: (form: Form) => send(z.object({ id: z.string() }), 'POST', 'handover/forms', form),
  importForms: (file: FormFile) => send(z.object({ added: z.int() }), 'POST', 'handover/forms/import', file),
  dropForm: (id: string) => call(z.unknown(), `handover/forms/${segment(id)}`, { method: 'DELETE' }),
  /** Changes of names that only the journal beside the footage knows. */
  journalChanges: () => call(JournalChanges, 'naming/journal'),
  undoFromJournal: (plan: string) => send(JournalUndone, 'POST', 'naming/journal', { plan }),
  conventions: () => call(KeptView, 'naming/conventions'),
  keepConvention: (kept: Kept) => send(z.object({ id: z.string() }), 'POST', 'naming/conventions', kept),
  importConventions: (file: unknown) =>
    send(z.object({ added: z.int() }), 'POST', 'naming/conventions/import', file),
  dropConvention: (id: string) =>
    call(z.unknown(), `naming/conventions/${segment(id)}`, { method: 'DELETE' }),
};

/** What the naming bench and the logbook ask of a job. */
const namingOf = (within: (path: string) => string) => ({
  namingData: (fields: readonly string[]) =>
    call(
      NamingData,
      within(`naming/clips?${new URLSearchParams(fields.map((f) => ['field', f])).toString()}`),
    ),
  changedClips: () => call(z.array(ChangedClip), within('naming/changed')),
  comingNames: (coming: Coming, fields: readonly string[]) =>
    send(ComingClips, 'POST', within('naming/coming'), { ...coming, fields }),
  skeleton: (asked: SkeletonRequest) => send(SkeletonView, 'POST', within('naming/skeleton'), asked),
  namesAt: (folders: z.infer<typeof StandingQuery>['folders']) =>
    send(z.array(z.array(z.string())), 'POST', within('naming/standing'), { folders }),
  applyNames: (request: z.infer<typeof ApplyRequest>) => whole(PlanResult, within('naming/apply'), request),
  plan: (id: string) => call(PlanDetail, within(`naming/plans/${segment(id)}`)),
  undo: (id: string, clips: readonly string[] = []) =>
    whole(PlanResult, within(`naming/plans/${segment(id)}/undo`), { clips }),
  renameListUrl: (id: string, as: 'csv' | 'text'): string =>
    `/api/${within(`naming/plans/${segment(id)}/list?as=${as}`)}`,
});

/** What the screen to choose asks of a job. */
const chooseOf = (within: (path: string) => string) => ({
  choose: () => call(ChooseView, within('choose')),
  chosenClip: (clip: string) => call(ClipMarks, within(`choose/clips/${segment(clip)}`)),
  changeChoice: (change: ChangeAsked) => send(Changed, 'POST', within('choose'), change),
  stringOut: (id: string) => call(StringOutDetail, within(`choose/stringOuts/${segment(id)}`)),
  undoChoice: (id: string) => send(Changed, 'POST', within('choose/undo'), { id }),
  findClips: (query: z.input<typeof FindQuery>) => send(Found, 'POST', within('choose/find'), query),
  findIds: (query: z.input<typeof FindIds>) => send(z.array(z.string()), 'POST', within('choose/ids'), query),
  findRanges: (query: z.input<typeof RangesQuery>) =>
    send(RangesFound, 'POST', within('choose/ranges'), query),
  /** Compares the sound of clips that roll together with one, or, of null, of all. */
  listen: (clip: string | null) => whole(HeardOf, within('choose/rolling'), { clip }),
  folderLevels: () => call(z.array(FolderLevel), within('choose/folders')),
  searchesUrl: `/api/${within('choose/searches')}`,
  takeSearches: (file: SearchFile) => send(Changed, 'POST', within('choose/searches'), file),
});

/** What handing over asks of a job. */
const handoverOf = (within: (path: string) => string) => ({
  rehearsal: (query: z.input<typeof RehearsalQuery>) =>
    send(RehearsalView, 'POST', within('handover/rehearsal'), query),
  mendClips: (wanted: MendRequest) => send(Mended, 'POST', within('handover/rehearsal/mend'), wanted),
  edits: () => call(z.array(EditName), within('handover/edits')),
  takeEdit: (edit: z.input<typeof NewEdit>) =>
    send(z.object({ id: z.string() }), 'POST', within('handover/edits'), edit),
  edit: (id: string) => call(EditView, within(`handover/edits/${segment(id)}`)),
  editEvents: (id: string, query: z.input<typeof EventsQuery>) =>
    send(EventsFound, 'POST', within(`handover/edits/${segment(id)}/events`), query),
  setEditRate: (id: string, rate: EditRate['rate']) =>
    send(z.unknown(), 'PATCH', within(`handover/edits/${segment(id)}`), { rate }),
  makeAlike: (id: string) =>
    send(z.object({ begun: z.int() }), 'POST', within(`handover/edits/${segment(id)}/alike`), {}),
  dropEdit: (id: string) => call(z.unknown(), within(`handover/edits/${segment(id)}`), { method: 'DELETE' }),
  packages: () => call(z.array(PackageName), within('handover/packages')),
  planPackage: (wanted: NewPackage) => send(PackagePlan, 'POST', within('handover/packages/plan'), wanted),
  makeForPackage: (wanted: NewPackage) =>
    send(z.object({ added: z.int() }), 'POST', within('handover/packages/make'), wanted),
  sendPackage: (wanted: NewPackage) =>
    send(z.object({ id: z.string() }), 'POST', within('handover/packages'), wanted),
  package: (id: string) => call(PackageView, within(`handover/packages/${segment(id)}`)),
  actOnPackage: (id: string, action: PackageAction['action']) =>
    send(z.unknown(), 'POST', within(`handover/packages/${segment(id)}`), { action }),
  dropPackage: (id: string) =>
    call(z.unknown(), within(`handover/packages/${segment(id)}`), { method: 'DELETE' }),
  listView: (list: ListIn) => send(ListView, 'POST', within('handover/lists/read'), list),
  takeList: (list: ListIn) => send(ListTaken, 'POST', within('handover/lists'), list),
  /** A report as a page; what is wanted is a `ReportRequest` as JSON. */
  reportPage: (wanted: string, signal: AbortSignal) =>
    ask(within(`handover/reports?as=html&report=${segment(wanted)}`), { signal }).then((r) => r.text()),
  saveReport: (wanted: string, as: 'html' | 'pdf') =>
    save(within(`handover/reports?as=${as}&save=&report=${segment(wanted)}`)),
  /** `track`: of which of its tracks the list is to be, from 0. */
  correctedUrl: (id: string, as: 'otio' | 'edl', track?: number): string =>
    `/api/${within(`handover/edits/${segment(id)}/corrected?as=${as}${track === undefined ? '' : `&track=${track}`}`)}`,
  stringOutUrl: (id: string, as: 'otio' | 'edl'): string =>
    `/api/${within(`handover/stringOuts/${segment(id)}?as=${as}`)}`,
});

/** What is asked of a job about its proxies and the work under way. */
const proxiesOf = (within: (path: string) => string) => ({
  proxies: () => call(ProxiesView, within('proxies')),
  makeProxies: (clips: string[], recipe: Recipe | null = null, part: Part | null = null) =>
    send(z.object({ added: z.int() }), 'POST', within('proxies'), { clips, recipe, part }),
  tryRecipe: (wanted: TryRecipe) => send(Trial, 'POST', within('proxies/try'), wanted),
  actOnPair: (action: PairAction) =>
    send(z.object({ freed: z.number() }), 'POST', within('proxies/beside'), action),
  lookForProxies: (search: AdoptSearch) => whole(AdoptionView, within('proxies/adopt/look'), search),
  adopt: (wanted: Adopt) => send(z.object({ adopted: z.int() }), 'POST', within('proxies/adopt'), wanted),
  lookForLost: () => whole(LostView, within('proxies/lost/look'), {}),
  takeFound: (wanted: TakeFound) => send(TakenFound, 'POST', within('proxies/lost'), wanted),
  watchClips: (clips: string[]) => whole(WatchedThrough, within('proxies/watched'), { clips }),
  provePairs: (clips: string[]) => whole(Compared, within('proxies/pairs'), { clips }),
  work: () => call(WorkSummary, within('proxies/work')),
  changeWork: (action: WorkAction) =>
    send(z.object({ changed: z.int() }), 'POST', within('proxies/work'), action),
});

const watchesOf = (within: (path: string) => string) => ({
  watches: () => call(WatchViews, within('watch')),
  watchFolder: (wanted: NewWatch) => send(z.object({ id: z.string() }), 'POST', within('watch'), wanted),
  lookAtWatch: (id: string) => call(z.unknown(), within(`watch/${segment(id)}`), { method: 'POST' }),
  setWatch: (id: string, options: WatchOptions) =>
    send(z.unknown(), 'PATCH', within(`watch/${segment(id)}`), options),
  dropWatch: (id: string) => call(z.unknown(), within(`watch/${segment(id)}`), { method: 'DELETE' }),
  next: () => call(NextView, within('next')),
  answerNext: (answer: NextAnswer) => send(z.unknown(), 'POST', within('next'), answer),
  readFinds: (watch: string) => send(z.unknown(), 'POST', within('watch/read'), { watch }),
});

const templatesOf = (within: (path: string) => string) => ({
  keepTemplate: (wanted: KeepTemplate) =>
    send(z.object({ id: z.string() }), 'POST', within('templates'), wanted),
  previewParts: (template: string) =>
    call(TakenParts, within(`templates/parts?template=${segment(template)}`)),
  takeParts: (wanted: TakeParts) => send(TakenParts, 'POST', within('templates/parts'), wanted),
});

const intakeOf = (within: (path: string) => string) => ({
  folder: (root: string, path: DiskPath) =>
    call(FolderView, within(`intake/folders?root=${segment(root)}&path=${segment(path)}`)),
  glance: (path: DiskPath) => call(PlaceGlance, within(`intake/glance?path=${segment(path)}`)),
  look: (root: string, path: DiskPath, singles: readonly DiskPath[] = []) =>
    send(Looked, 'POST', within('intake/look'), { root, path, singles }),
  firstLook: (root: string, path: DiskPath, singles: readonly DiskPath[] = []) =>
    send(FirstLook, 'POST', within('intake/look/names'), { root, path, singles }),
  lookedFacts: (root: string, path: DiskPath) =>
    call(LookedFacts, within(`intake/facts?root=${segment(root)}&path=${segment(path)}`)),
  takeIn: (wanted: TakeIn) =>
    send(
      z.object({ cards: z.array(z.object({ id: z.string(), clips: z.int() })) }),
      'POST',
      within('intake'),
      wanted,
    ),
  forgetCard: (id: string) => call(z.unknown(), within(`intake/cards/${segment(id)}`), { method: 'DELETE' }),
});

/** What it asks of one job, by the job's code, and the addresses of what the browser fetches by itself. */
export function jobServer(code: string) {
  const at = `jobs/${segment(code)}`;
  const within = (path: string): string => `${at}/${path}`;
  return {
    job: () => call(JobView, at),
    saveSettings: (settings: z.infer<typeof JobSettings>) => send(z.unknown(), 'PATCH', at, settings),
    /** As above, of a page that is being left: the browser sends it all the same. */
    saveSettingsLeaving: (settings: z.infer<typeof JobSettings>) =>
      send(z.unknown(), 'PATCH', at, settings, { keepalive: JSON.stringify(settings).length < KEPT_ALIVE }),
    changeJob: (action: JobAction) => send(z.unknown(), 'POST', at, action),
    removeJob: () => call(z.unknown(), at, { method: 'DELETE' }),
    ...templatesOf(within),
    ...watchesOf(within),
    ...intakeOf(within),
    offloads: () => call(z.array(OffloadView), within('offload')),
    beginOffload: (wanted: NewOffload) =>
      send(z.object({ id: z.string() }), 'POST', within('offload'), wanted),
    offload: (id: string) => call(OffloadDetail, within(`offload/${segment(id)}`)),
    changeOffload: (id: string, action: OffloadAction) =>
      send(z.unknown(), 'POST', within(`offload/${segment(id)}`), action),
    countCopies: (how: { offlineCounts: boolean } | { serversApart: boolean }) =>
      send(z.unknown(), 'PATCH', at, how),
    wipe: (card: string) => call(WipeView, within(`custody/cards/${segment(card)}/wipe`)),
    checkAgain: (copy: string) => whole(CheckReport, within(`custody/copies/${segment(copy)}`)),
    planMove: (id: string, to: string) =>
      call(MovePlan, within(`places/${segment(id)}/move?to=${segment(to)}`)),
    /** Moves a place; resolves when it is there. */
    movePlace: (id: string, to: string) => whole(MovedPlace, within(`places/${segment(id)}/move`), { to }),
    checkFolder: (wanted: CheckFolder) => whole(CheckReport, within('custody/check'), wanted),
    cards: () => call(z.array(CardName), within('cards')),
    wall: () => call(WallView, within('overview/wall')),
    card: (id: string) => call(CardPage, within(`overview/cards/${segment(id)}`)),
    clip: (id: string) => call(ClipDetail, within(`overview/clips/${segment(id)}`)),
    readAgain: (clips: string[]) =>
      send(z.object({ added: z.int() }), 'POST', within('facts/read'), { clips }),
    ...namingOf(within),
    log: (query: z.infer<typeof LogQuery>) =>
      call(LogPage, within(`logbook?${new URLSearchParams(query).toString()}`)),
    ...proxiesOf(within),
    ...chooseOf(within),
    ...handoverOf(within),
    factPage: (query: FactPageQuery) => send(FactPage, 'POST', within('facts/table'), query),
    factIds: (query: FactIdsQuery) => send(z.array(z.string()), 'POST', within('facts/ids'), query),
    factLines: (query: FactLinesQuery) => send(FactLines, 'POST', within('facts/lines'), query),
    factSums: () => call(FactSums, within('facts/sums')),
    sideBySide: (clips: readonly string[]) => send(SideBySide, 'POST', within('facts/compare'), { clips }),
    stated: () => call(Stated, within('facts/stated')),
    extract: (wanted: Extraction) => whole(Extracted, within('facts/extract'), wanted),
    unread: () => call(z.array(UnreadClip), within('facts/unread')),
    clocks: () => call(ClocksView, within('facts/clocks')),
    suspicions: () => call(ClocksView.shape.suspicions, within('facts/clocks/open')),
    setClock: (clock: Clock) => send(z.object({ id: z.string() }), 'POST', within('facts/clocks'), clock),
    dropClock: (id: string) => call(z.unknown(), within(`facts/clocks/${segment(id)}`), { method: 'DELETE' }),
    correct: (correction: Correction) => send(Changed, 'POST', within('facts/correct'), correction),
    say: (said: Sayings['said']) => send(Changed, 'POST', within('facts/say'), { said }),
    undoSaid: (id: string) => send(Changed, 'POST', within('facts/undo'), { id }),
    scan: (card: string | null) =>
      send(
        z.object({
          same: z.int(),
          again: z.int(),
          missing: z.array(z.string()),
          unseen: z.int(),
          offline: z.array(z.string()),
        }),
        'POST',
        within('intake/scan'),
        { card },
      ),
    lookedStripUrl: (root: string, path: DiskPath): string =>
      `/api/${within(`intake/strip?root=${segment(root)}&path=${segment(path)}`)}`,
    lookedPlayUrl: (root: string, path: DiskPath): string =>
      `/api/${within(`intake/play?root=${segment(root)}&path=${segment(path)}`)}`,
    receiptUrl: (card: string, as: 'html' | 'json'): string =>
      `/api/${within(`custody/cards/${segment(card)}/receipt?as=${as}`)}`,
    exportUrl: `/api/${within('records/export')}`,
    thirdUrl: (clip: string, third: Third): string =>
      `/api/${within(`viewing/${segment(clip)}/filmstrip/${third}`)}`,
    posterUrl: (clip: string): string => `/api/${within(`viewing/${segment(clip)}/poster`)}`,
    filmstripUrl: (clip: string): string => `/api/${within(`viewing/${segment(clip)}/filmstrip`)}`,
    waveform: (clip: string) => call(Waveform.nullable(), within(`viewing/${segment(clip)}/waveform`)),
    mediaUrl: (clip: string, which: 'original' | 'proxy'): string =>
      `/api/${within(`viewing/${segment(clip)}/media?which=${which}`)}`,
    frameUrl: (clip: string, which: 'original' | 'proxy', frame: number, width: number): string =>
      `/api/${within(`viewing/${segment(clip)}/frame?which=${which}&frame=${frame}&width=${width}`)}`,
  };
}
