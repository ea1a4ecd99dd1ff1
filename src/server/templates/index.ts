// What other rooms use of this one.
export { beginBy, beginFromTemplate } from './begin';
export {
  dropTemplate,
  importTemplates,
  keepTemplate,
  templateById,
  templateOf,
  templatesView,
} from './library';
export { previewParts, takeParts } from './take';
