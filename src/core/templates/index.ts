// What other rooms use of this one.
export { READY_TEMPLATES } from './ready';
export {
  BegunJob,
  KeepTemplate,
  NewFromTemplate,
  PART_WORDS,
  TakenParts,
  TakeParts,
  Template,
  TemplateFile,
  TemplatePart,
  TemplatesView,
  watchedFolder,
} from './template';
