import type { RecordKind } from '../facts/recordKind';
import type { Docket, Evidence, Question } from './types';

/** Whether a reader may see a record. */
export type SeesRecord = (kind: RecordKind, id: number) => boolean;

const HIDDEN = 'a record that is not yours to see';

/** The records that decisions and questions name, so that it can be asked which of them a reader may see. */
export function recordsIn(docket: Docket, questions: readonly Question[]): { kind: RecordKind; id: number }[] {
  const found: { kind: RecordKind; id: number }[] = [];
  const note = (kind: RecordKind, id: number): string => {
    found.push({ kind, id });
    return '';
  };
  for (const entry of docket) for (const evidence of entry.evidence) renamed(evidence, (kind, id) => note(kind, id));
  for (const question of questions) for (const candidate of question.candidates) note(question.kind, candidate.id);
  return found;
}

/** A decision as someone reads it who may not see all records: those that they may not see have no names. */
export function withoutHidden(docket: Docket, sees: SeesRecord): Docket {
  return docket.map((entry) => ({
    ...entry,
    evidence: entry.evidence.map((evidence) => renamed(evidence, (kind, id, name) => (sees(kind, id) ? name : HIDDEN))),
  }));
}

/** Questions with the candidates alone that the reader may see. */
export function questionsWithoutHidden(questions: readonly Question[], sees: SeesRecord): Question[] {
  return questions.map((question) => ({
    ...question,
    candidates: question.candidates.filter((candidate) => sees(question.kind, candidate.id)),
  }));
}

function renamed(evidence: Evidence, name: (kind: RecordKind, id: number, name: string) => string): Evidence {
  const candidates = <T extends { id: number; name: string }>(kind: RecordKind, list: readonly T[]): T[] =>
    list.map((it) => ({ ...it, name: name(kind, it.id, it.name) }));
  switch (evidence.fact) {
    case 'person':
    case 'created':
      return { ...evidence, name: name(evidence.kind, evidence.id, evidence.name) };
    case 'account':
    case 'deal':
      return { ...evidence, name: name(evidence.fact, evidence.id, evidence.name) };
    case 'own record':
      return { ...evidence, name: name('own', evidence.id, evidence.name) };
    case 'open own records':
      return { ...evidence, candidates: candidates('own', evidence.candidates) };
    case 'shared domain':
      return { ...evidence, candidates: candidates('account', evidence.candidates) };
    case 'not created':
      return evidence.like
        ? { ...evidence, like: { ...evidence.like, name: name(evidence.like.kind, evidence.like.id, evidence.like.name) } }
        : evidence;
    case 'new matter':
      return { ...evidence, name: name('deal', evidence.id, evidence.name) };
    case 'several codes':
    case 'deals too young':
    case 'open deals':
      return { ...evidence, candidates: candidates('deal', evidence.candidates) };
    case 'deal scores':
      return { ...evidence, scores: candidates('deal', evidence.scores).map((it) => (it.name === HIDDEN ? { ...it, words: [] } : it)) };
    // Decisions of earlier versions name what people did by hand without its id: kept from those who do not see all records.
    case 'pin':
      return evidence.record === null
        ? evidence
        : { ...evidence, record: name(evidence.kind ?? 'account', evidence.recordId ?? -1, evidence.record) };
    case 'gesture':
      return evidence.target === null || evidence.target === 'rules'
        ? evidence
        : { ...evidence, record: name(evidence.target, evidence.recordId ?? -1, evidence.record) };
    default:
      return evidence;
  }
}
