import { Refusal } from '../base/refusal';
import type { KeepOutRequest } from '@fulvet/contract';
import type { KeepOutEntry, Rulebook } from '@fulvet/core';
import { addressKey, domainToAscii, keepOutEntrySchema, rulebookSchema } from '@fulvet/core';

type Request = Required<Omit<KeepOutRequest, 'note'>> & { note: string };

/** The request as an entry in its comparable form. @returns a refusal where it can be no entry */
export function entryFrom(request: Request, id: string, by: string, at: string): KeepOutEntry | Refusal {
  const parsed = keepOutEntrySchema.safeParse({ id, ...request, addedBy: by, addedAt: at });
  if (!parsed.success)
    return new Refusal('unfit', 'bad-input', `${parsed.error.issues[0]?.message ?? 'It cannot be read'}.`, {
      value: parsed.error.issues[0]?.message ?? '',
    });
  const value =
    request.kind === 'domain'
      ? domainToAscii(parsed.data.value)
      : (addressKey(parsed.data.value, { tagsTellApart: true })?.key ?? parsed.data.value);
  return { ...parsed.data, value };
}

/** The rulebook with the entry at its end. */
export function withEntry(rulebook: Rulebook, entry: KeepOutEntry): Rulebook {
  return rulebookSchema.parse({ ...rulebook, keepOut: { ...rulebook.keepOut, entries: [...rulebook.keepOut.entries, entry] } });
}

export function withoutEntry(rulebook: Rulebook, entryId: string): Rulebook {
  return { ...rulebook, keepOut: { ...rulebook.keepOut, entries: rulebook.keepOut.entries.filter((entry) => entry.id !== entryId) } };
}
