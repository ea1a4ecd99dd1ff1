// What other rooms use of this one.
export { beginFromTemplate } from './begin';
export { dropTemplate, importTemplates, keepTemplate, templateById, templatesView } from './library';
export { previewParts, takeParts } from './take';
