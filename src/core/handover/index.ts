// What other rooms use of this one.
export { type Edit, type EditEvent, type EditTrack, eventsOf, NotAnEdit, trackWords } from './edit/edit';
export { guessRate, readEdl, writeEdl } from './edit/edl';
export {
  corrected,
  type Kept,
  LAID_WORDS,
  type Laid,
  LaidVerdict,
  lay,
  numbersOf,
  Shelved,
  type Alike,
  cutAlike,
} from './edit/lay';
export {
  type CollectionOut,
  type EventOut,
  type ImagesOut,
  type MediaOut,
  readOtio,
  writeOtio,
  writeOtioCollection,
} from './edit/otio';
export { firstFrame, Held, HELD_FIELDS, HELD_WORDS, heldOriginal, knownStart, stemOf } from './held';
export { type Given, LIST_FIELD_WORDS, type Listed, ListField, readList, type ReadList } from './list/list';
export { ListIn, ListTaken, ListView } from './list/shapes';
export { rewrapThatStarts, rewrapWithTimecode } from './mend';
export { countWays, Finding, Mend, type Rehearsed, rehearse, Verdict, VERDICT_WORDS } from './rehearsal';
export {
  folderFault,
  Form,
  FOLDER_WORDS,
  FormFile,
  imagesIn,
  isReadyForm,
  List,
  LIST_WORDS,
  Media,
  MEDIA_FOLDERS,
  MEDIA_WORDS,
  NAME_WORDS,
  READY_FORMS,
  USED_AS_WORDS,
  UsedAs,
} from './package/form';
export { NAME_PATTERN_WORDS, namesFault, saidIn } from './package/names';
export { joinParts, madeFor, recipeForUsed } from './package/parts';
export {
  type Compared,
  comparePlans,
  type ImageOf,
  type Item,
  type Packable,
  type PackClip,
  planItems,
  type Remark,
  type Sent,
  sentKey,
} from './package/plan';
export { ClipSet } from './package/set';
export {
  FormsView,
  NewPackage,
  PackageAction,
  PackageName,
  PackagePlan,
  PackageView,
  type RemarkView,
  SENDING_WORDS,
  SendingState,
  type SendingView,
} from './package/shapes';
export {
  EditName,
  EditRate,
  EditView,
  EventsFound,
  EventsQuery,
  Mended,
  MendRequest,
  NewEdit,
  RehearsalQuery,
  RehearsalView,
} from './shapes';
export { MARK_WORDS, reportPage } from './report/page';
export { reportOf } from './report/reports';
export {
  type Cell,
  type Report,
  type ReportCard,
  type ReportClip,
  REPORT_FIELDS,
  REPORT_WORDS,
  ReportKind,
  ReportRequest,
  type Section,
  type Tile,
} from './report/shapes';
export { Tried, Way, WAY_WORDS, WAYS } from './ways';
