// What other rooms use of this one.
export { above, BinLabel, moveFault, withInside } from './bin';
export { ChoiceSet } from './choiceSet';
export { fold } from './fold';
export { completeKeyword, keywordKey, LONGEST_NAME, tidyName } from './keyword';
export {
  countOf,
  GivenKind,
  nudged,
  isGiven,
  RANGE_WORDS,
  RangeKind,
  SOUND_RATE,
  type Span,
  spanFault,
  spanTimes,
} from './range';
export { keywordsBy, linesOf, Rule, type Ruled, RuleKind, ruleWords } from './rule';
export { apartText, type Beside, fromFirst, rollingTogether, type Runs } from './rolling';
export { compileQuery, type Compiled, type SearchContext, type Subject } from './search/compile';
export { asValue, type Completion, completions } from './search/complete';
export { OPS, SEARCH_FIELDS, type SearchField, searchField } from './search/fields';
export { parseQuery, queryText } from './search/parse';
export { Op, type Part, type Query, SearchFault } from './search/query';
export { WITHOUT_PROXY } from './search/states';
export { addressNumber } from './search/values';
export { duplicates, placesBetween } from './stringOut';
export {
  type BinView,
  Change,
  ChooseView,
  ClipMarks,
  FindIds,
  FindQuery,
  FolderLevel,
  Found,
  HeardOf,
  type KeywordView,
  Listen,
  type PlayPart,
  RangesFound,
  RangesQuery,
  type RangeView,
  type RollingView,
  type RuleView,
  SearchFile,
  type SearchView,
  StringOutDetail,
  type StringOutView,
  Tile,
  Wanted,
} from './shapes';
