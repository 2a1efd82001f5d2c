import { isRefusal } from '../base/refusal';
import type { RulebookVersion } from '@fulvet/contract';
import { differenceWords, parsedRulebook } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import { versionToDraft } from './changeDraft';
import { listNames } from './draft';
import type { VersionRow } from './versions';
import { allVersions, loadVersion, versionBefore } from './versions';

function shown({ version, summary, created_at, by, pilot_mailboxes, in_force }: VersionRow): RulebookVersion {
  return { version, summary, at: created_at, by, pilotMailboxes: pilot_mailboxes, inForce: in_force };
}

export const versionRoutes: Pick<Handlers, 'listRulebooks' | 'getRulebookVersion' | 'versionToDraft'> = {
  listRulebooks: async ({ user, services }) => ({
    versions: (await services.database.as(user.id, allVersions)).map(shown),
  }),

  getRulebookVersion: ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const row = await loadVersion(tx, params.version);
      if (isRefusal(row)) return row;
      const other = query.against === undefined ? await versionBefore(tx, params.version) : await loadVersion(tx, query.against);
      if (isRefusal(other)) return other;
      const document = parsedRulebook(row.document);
      const differences = other ? differenceWords(parsedRulebook(other.document), document, await listNames(tx)) : [];
      return { ...shown(row), document, against: other?.version ?? null, differences };
    }),

  versionToDraft: ({ user, params, services }) => versionToDraft(services, user, params.version),
};
