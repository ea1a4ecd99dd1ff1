// What other rooms use of this one.
export { ExtractDialog } from './ExtractDialog';
export { FactsScreen } from './FactsScreen';
