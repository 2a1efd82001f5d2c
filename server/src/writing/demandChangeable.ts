import { Refusal } from '../base/refusal';

/**
 * What a member changes of what is kept is theirs to change, and as they read it.
 *
 * @param what in the singular
 * @param revision as it was read; null: any
 */
export function demandChangeable<T extends { isMine: boolean; revision: number }>(
  found: T,
  what: 'template' | 'document' | 'series',
  revision: number | null,
): T | Refusal {
  if (!found.isMine)
    return new Refusal(
      'forbidden',
      'not-yours',
      `Only its owner, or an administrator, changes this ${what}. Keep one of your own instead.`,
    );
  return revision === null || found.revision === revision
    ? found
    : new Refusal(
        'conflict',
        'changed-meanwhile',
        `This ${what} was changed meanwhile. Nothing was saved: copy what you changed, then open it again.`,
      );
}
