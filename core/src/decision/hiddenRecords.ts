import type { RecordKind } from '../facts/recordKind';
import type { Docket, Evidence, Question } from './types';

/** Whether a reader may see a record. */
export type SeesRecord = (kind: RecordKind, id: number) => boolean;

const HIDDEN = 'a record that is not yours to see';

/** The records that dockets and questions name, so that it can be asked which of them a reader may see. */
export function recordsIn(docket: Docket, questions: readonly Question[]): { kind: RecordKind; id: number }[] {
  const found: { kind: RecordKind; id: number }[] = [];
  const note = (kind: RecordKind, id: number): string => {
    found.push({ kind, id });
    return '';
  };
  for (const entry of docket) for (const one of entry.evidence) renamed(one, (kind, id) => note(kind, id));
  for (const one of questions) for (const candidate of one.candidates) note(one.kind, candidate.id);
  return found;
}

/** A docket as somebody reads it who may not see all records: those that they may not see have no names. */
export function withoutHidden(docket: Docket, sees: SeesRecord): Docket {
  return docket.map((entry) => ({
    ...entry,
    evidence: entry.evidence.map((one) => renamed(one, (kind, id, name) => (sees(kind, id) ? name : HIDDEN))),
  }));
}

/** Questions with the candidates alone that the reader may see. */
export function questionsWithoutHidden(questions: readonly Question[], sees: SeesRecord): Question[] {
  return questions.map((one) => ({ ...one, candidates: one.candidates.filter((candidate) => sees(one.kind, candidate.id)) }));
}

function renamed(one: Evidence, name: (kind: RecordKind, id: number, name: string) => string): Evidence {
  const candidates = <T extends { id: number; name: string }>(kind: RecordKind, list: readonly T[]): T[] =>
    list.map((it) => ({ ...it, name: name(kind, it.id, it.name) }));
  switch (one.fact) {
    case 'person':
    case 'created':
      return { ...one, name: name(one.kind, one.id, one.name) };
    case 'account':
    case 'deal':
      return { ...one, name: name(one.fact, one.id, one.name) };
    case 'shared domain':
      return { ...one, candidates: candidates('account', one.candidates) };
    case 'not created':
      return one.like ? { ...one, like: { ...one.like, name: name(one.like.kind, one.like.id, one.like.name) } } : one;
    case 'new matter':
      return { ...one, name: name('deal', one.id, one.name) };
    case 'several codes':
    case 'deals too young':
    case 'open deals':
      return { ...one, candidates: candidates('deal', one.candidates) };
    case 'deal scores':
      return { ...one, scores: candidates('deal', one.scores).map((it) => (it.name === HIDDEN ? { ...it, words: [] } : it)) };
    // What people did by hand names the record without its id: kept from those who do not see all records.
    case 'pin':
      return one.record === null ? one : { ...one, record: name(one.kind ?? 'account', -1, one.record) };
    case 'gesture':
      return one.target === null || one.target === 'rules' ? one : { ...one, record: name(one.target, -1, one.record) };
    default:
      return one;
  }
}
