import type { RecordKind } from '../facts/recordKind';
import { RULES } from '../rulebook/schema';
import type { DecisionFacts, Pin } from '../facts/types';
import type { Evidence, Filing } from './types';

/** What the pins on an email mean for its decision. */
export interface PinVerdict {
  /** Records that a person put it under. */
  filings: readonly Filing[];
  /** What takes it in, whatever the rules say: the word of someone in whose mailbox it lies; null without one. */
  takesIn: Filing | null;
  /** Whether a person took it off this record, or off all of its kind. */
  isOff: (kind: RecordKind, id: number) => boolean;
  /** A person said about its deal: filed it under one, or took it off one. No other is looked for. */
  dealIsSaid: boolean;
  /** A person took it off everything: only what people file it under by hand stands. */
  offEverything: boolean;
  /** Questions about these kinds of record, or all questions, have their answer. */
  answers: (about: RecordKind | 'hold' | 'filing' | 'person') => boolean;
  sealed: boolean;
  evidence: readonly Evidence[];
}

const NO_PINS: PinVerdict = {
  filings: [],
  takesIn: null,
  isOff: () => false,
  dealIsSaid: false,
  offEverything: false,
  answers: () => false,
  sealed: false,
  evidence: [],
};

/**
 * Weighs the pins on an email, the latest last. The later word about a record holds; what was taken off as a whole stays off for the rules,
 * and a record that is filed by hand after that stands alone. Who uses no mailbox that holds the email can file it where it comes in by the rules, and
 * can neither take it in nor seal it: a word about a conversation reaches no further into a colleague's mailbox.
 */
export function weighPins({ pins }: Pick<DecisionFacts, 'pins'>): PinVerdict {
  if (pins.length === 0) return NO_PINS;
  const filed = new Map<string, Filing>();
  const off = new Set<string>();
  const kindsOff = new Set<RecordKind>();
  const saidOf = new Set<RecordKind>();
  let offEverything = false;
  let settled = false;
  let sealed = false;
  const own = new Set<string>();
  const ordered = pins.length > 1 ? [...pins].sort((first, second) => first.at - second.at || first.id - second.id) : pins;
  for (const pin of ordered) {
    const { kind, recordId } = pin;
    if (pin.does === 'seal' && pin.own) sealed = true;
    if (pin.does === 'settle') settled = true;
    if (kind !== null) saidOf.add(kind);
    if ((pin.does === 'file' || pin.does === 'principal') && kind !== null && recordId !== null) {
      // An email has one principal record: the last that was said to be.
      if (pin.does === 'principal')
        for (const [key, filing] of filed)
          if (filing.rule === RULES.principal) filed.set(key, { ...filing, rule: RULES.pinOfConversation });
      filed.set(`${kind}:${recordId}`, { kind, id: recordId, rule: ruleOf(pin) });
      off.delete(`${kind}:${recordId}`);
      if (pin.own) own.add(`${kind}:${recordId}`);
    }
    if (pin.does !== 'takeOff') continue;
    for (const [key, filing] of filed) {
      const concerned = kind === null || (filing.kind === kind && (recordId === null || recordId === filing.id));
      if (concerned) filed.delete(key);
    }
    if (kind === null) offEverything = true;
    else if (recordId === null) kindsOff.add(kind);
    else off.add(`${kind}:${recordId}`);
  }
  const isOff = (kind: RecordKind, id: number): boolean => {
    const key = `${kind}:${id}`;
    return !filed.has(key) && (offEverything || kindsOff.has(kind) || off.has(key));
  };
  return {
    filings: [...filed.values()],
    takesIn: [...filed].find(([key]) => own.has(key))?.[1] ?? null,
    isOff,
    dealIsSaid: saidOf.has('deal') || offEverything,
    offEverything,
    answers: (about) =>
      settled || offEverything || (about === 'hold' || about === 'filing' ? pins.length > 0 : about !== 'person' && saidOf.has(about)),
    sealed,
    evidence: ordered.map(evidenceOf),
  };
}

function ruleOf({ does, reach }: Pin): string {
  if (does === 'principal') return RULES.principal;
  return reach === 'email' ? RULES.pin : RULES.pinOfConversation;
}

function evidenceOf({ does, kind, recordId, recordName, reach, by, at }: Pin): Evidence {
  const record = recordId === null ? { record: null } : { record: recordName, recordId };
  return { fact: 'pin', does, kind, ...record, reach, by, at };
}
