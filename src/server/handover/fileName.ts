import { plainName } from '../../core/platform/names';

/** A name that every volume takes. */
export const fileName = (name: string): string =>
  plainName(name)
    .replace(/[\\/:*?"<>|\u0000-\u001f]+/g, '-')
    .slice(0, 80)
    .replace(/^[. ]|[. ]$/g, '_');
