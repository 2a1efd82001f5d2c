import { Refusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { contactsAsVcards, listAsCsv, recordsAsCsv } from './exportRecords';
import { nounOf } from './kinds';
import { importFile, previewImport } from './import/importFile';

export const recordFileRoutes: Pick<Handlers, 'previewRecords' | 'importRecords' | 'exportRecords'> = {
  previewRecords: ({ user, params, body, services }) => previewImport(services, user, params.kind, body),

  importRecords: ({ user, params, body, services }) => importFile(services, user, params.kind, body),

  exportRecords: async ({ user, params, query, services, res }) => {
    if (query.format === 'vcard' && params.kind !== 'contact')
      return new Refusal('unfit', 'bad-input', 'Only contacts can be exported as vCard.');
    const text = await services.database.as(user.id, (tx) =>
      query.format === 'vcard'
        ? contactsAsVcards(tx)
        : query.columns === 'list'
          ? listAsCsv(tx, params.kind, query)
          : recordsAsCsv(tx, params.kind, query.of),
    );
    const [type, ending] = query.format === 'vcard' ? ['text/vcard', 'vcf'] : ['text/csv', 'csv'];
    res.set({
      'Content-Type': `${type}; charset=utf-8`,
      'Content-Disposition': `attachment; filename="${query.of ?? nounOf(params.kind, 2)}.${ending}"`,
    });
    res.send(text);
    return undefined;
  },
};
