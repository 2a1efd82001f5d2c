import type { OwnKind } from '@fulvet/contract';
import { kindNamed } from './ownKinds';

const DAY = /^\d{4}-\d{2}-\d{2}$/;
const isDay = (text: string): boolean => DAY.test(text) && !Number.isNaN(Date.parse(text));

/** What cannot be taken: the field, and why. */
export interface WrongField {
  field: string;
  reason: string;
}

/**
 * The kind of a record of an own kind: as it is said, or as it is.
 *
 * @param before what the record says, null for a new one
 */
export function kindOfRecord(
  kinds: readonly OwnKind[],
  named: string | undefined,
  before: Readonly<Record<string, string>> | null,
): OwnKind | WrongField {
  const kind = kindNamed(kinds, named || before?.kind || '');
  if (!kind) {
    const known = kinds.map(({ key }) => key).join(', ');
    const reason = named ? `There is no kind “${named}”.` : 'The kind of the record is missing.';
    return { field: 'kind', reason: `${reason} ${known ? `Choose one of these: ${known}.` : 'An administrator defines kinds first.'}` };
  }
  if (before && before.kind !== kind.key) return { field: 'kind', reason: 'A record stays of its kind. Start another record instead.' };
  return kind;
}

/**
 * Puts what is said of a record of an own kind into its one form in place: its kind by key, its state as it is written, with `open` after it,
 * and the day on which it was closed.
 *
 * @param before what the record says, null for a new one
 * @returns what is wrong, or null
 */
export function normaliseOwnRecord(
  kind: OwnKind,
  values: Record<string, string>,
  before: Readonly<Record<string, string>> | null,
): WrongField | null {
  values.kind = kind.key;
  if (values.code !== undefined) {
    values.code = values.code.trim().toUpperCase();
    if (before && values.code !== before.code) return { field: 'code', reason: `The number stays ${before.code ?? ''}.` };
    if (values.code !== '' && !isNumberOf(kind, values.code))
      return { field: 'code', reason: `“${values.code}” is not a number such as ${kind.prefix}-12. Leave it out, and one is given.` };
  }
  if (values.emails && !kind.hasAddresses) return { field: 'emails', reason: `${kind.plural} have no addresses of their own.` };
  if (values.people && !kind.hasPeople) return { field: 'people', reason: `No people are linked to ${kind.plural.toLowerCase()}.` };
  if (values.account && !kind.hasAccount) return { field: 'account', reason: `No account is linked to ${kind.plural.toLowerCase()}.` };
  for (const field of ['opened_on', 'closed_on']) {
    const day = values[field];
    if (day && !isDay(day)) return { field, reason: `“${day}” is not a date such as 2026-05-04.` };
  }
  return withState(kind, values, before);
}

function withState(kind: OwnKind, values: Record<string, string>, before: Readonly<Record<string, string>> | null): WrongField | null {
  const wanted = (values.state || before?.state || kind.states[0]?.name || '').trim().toLowerCase();
  const state = kind.states.find((item) => item.name.toLowerCase() === wanted);
  if (!state)
    return {
      field: 'state',
      reason: `“${values.state ?? ''}” is no state. Choose one of these: ${kind.states.map(({ name }) => name).join(', ')}.`,
    };
  values.state = state.name;
  values.open = state.open ? 'yes' : 'no';
  const today = new Date().toISOString().slice(0, 10);
  if (state.open) values.closed_on = '';
  else if (!values.closed_on) values.closed_on = before?.closed_on || today;
  const opened = values.opened_on || before?.opened_on || today;
  if (values.closed_on && values.closed_on < opened)
    return { field: 'closed_on', reason: `It cannot be closed on ${values.closed_on}, before it was opened on ${opened}.` };
  return null;
}

const isNumberOf = (kind: OwnKind, code: string): boolean => new RegExp(`^${kind.prefix}-[1-9]\\d{0,8}$`).test(code);
