// What other rooms use of this one.
export { TemplatesDialog } from './TemplatesDialog';
export { useTemplates } from './useTemplates';
