import type { MailClass } from '../emails/mailClass';
import type { RecordKind } from '../facts/recordKind';
import type { Direction, Outcome, SharingChoice, Pin, PinReach, ShareLevel, Step, ChoiceScope } from '../facts/types';
import type { Hit } from '../rulebook/hit';

/** What a deal scored for an email, from named evidence. */
export interface DealScore {
  id: number;
  name: string;
  /** 0 to 1. */
  score: number;
  /** People of the deal who take part, and how many it has. None take part where the deal is only known to be with their account. */
  people: number;
  of: number;
  /** Its owner holds the email. */
  owner: boolean;
  /** Words of its name in the subject. */
  words: readonly string[];
  /** Days since an email was filed under it beyond doubt, or null. */
  days: number | null;
}

/** One record that the email stands under, and the rule that put it there. */
export interface Filing {
  kind: RecordKind;
  /** Negative for a record that this decision creates (see {@link Creation.id}). */
  id: number;
  rule: string;
}

/** A record that the email brings into being. */
export interface Creation {
  kind: 'contact' | 'lead' | 'account';
  /** Id of the existing record that this email created earlier, or a negative one for a new record. */
  id: number;
  name: string;
  /** How sure the name is, 0 to 1. */
  nameConfidence: number;
  /** Address of a person, or null. */
  address: string | null;
  /** Domain of an account, or the company's domain of a lead. */
  domain: string | null;
  /** Account of a contact. */
  accountId: number | null;
  /** Company name of a lead. */
  company: string | null;
  /** Address of the member who is to own it, or null for whoever has the email. */
  owner: string | null;
  rule: string;
}

/** A question that a person has to answer. */
export interface Question {
  about: 'deal' | 'account' | 'filing' | 'hold' | 'person';
  /** What the candidates are; about a person, whom it may be at another address. */
  kind: RecordKind;
  candidates: { id: number; name: string }[];
  /** The domain that several accounts share, for a question about the account; the filing address, for one about that. */
  domain: string | null;
}

/** A piece of what a step rested its word on. */
export type Evidence =
  | { fact: 'direction'; direction: Direction; external: number }
  | { fact: 'mail class'; mailClass: MailClass; header: string; value: string }
  | { fact: 'own list'; list: string }
  | { fact: 'form'; address: string }
  | { fact: 'entry'; entry: string; value: string; participant: string; effect: 'ignore' | 'keepOut' }
  | { fact: 'own keep out'; participant: string }
  | { fact: 'no one left'; ignored: number }
  | { fact: 'scope'; scope: string; known: string[]; conversationFiled: boolean }
  | { fact: 'own scope'; scope: 'known' | 'byHand' }
  | { fact: 'not read' }
  | { fact: 'person'; address: string; kind: 'contact' | 'lead'; id: number; name: string }
  | { fact: 'account'; id: number; name: string; by: 'person' | 'domain' | 'colleagues' | 'name'; via: string }
  | { fact: 'shared domain'; domain: string; candidates: { id: number; name: string }[] }
  | { fact: 'provider'; domain: string }
  | { fact: 'unknown'; address: string }
  | {
      fact: 'deal';
      id: number;
      name: string;
      by: 'conversation' | 'code' | 'name' | 'text' | 'only open' | 'account' | 'score';
      via: string;
      closedAt?: number;
      openedAt?: number;
    }
  | { fact: 'several customers'; accounts: number }
  | {
      fact: 'new matter';
      id: number;
      name: string;
      subject: string;
      /** Its deal was closed; it had rested for so many days; the subject names other deals; it turned to this matter before. */
      because?: 'closed' | 'rested' | 'names others' | 'turned before' | 'text names another' | 'others';
      days?: number;
    }
  | { fact: 'deals too young'; candidates: { id: number; name: string }[]; days: number }
  | { fact: 'deal scores'; scores: DealScore[]; threshold: number; margin: number }
  | { fact: 'rule'; rule: string; name: string; hits: Hit[] }
  | {
      fact: 'own record';
      id: number;
      name: string;
      noun: string;
      by: 'conversation' | 'code' | 'text' | 'address' | 'only open' | 'score';
      via: string;
    }
  | { fact: 'open own records'; noun: string; candidates: { id: number; name: string }[] }
  | { fact: 'several codes'; candidates: { id: number; name: string }[] }
  | { fact: 'open deals'; candidates: { id: number; name: string }[] }
  | { fact: 'created'; kind: 'contact' | 'lead' | 'account'; id: number; name: string; via: string; confidence: number }
  | {
      fact: 'not created';
      address: string;
      /** Whom it may be at another address. */
      like?: { kind: 'contact' | 'lead' | 'account'; id: number; name: string };
      /** Of how many it may be one, where they are several. */
      alike?: number;
      because:
        | 'policy'
        | 'rule'
        | 'asks'
        | 'known name'
        | 'on record'
        | 'team name'
        | 'role address'
        | 'machine mail'
        | 'not written to'
        | 'no answer'
        | 'too few emails'
        | 'too many people'
        | 'undeliverable'
        | 'misspelled';
    }
  | {
      fact: 'level';
      level: ShareLevel;
      teams?: string[];
      existenceOnly?: boolean;
      because: 'policy' | 'rule' | 'not filed' | 'mailbox' | 'word';
    }
  | { fact: 'own word'; does: SharingChoice['does']; scope: ChoiceScope; value: string; by: string; at: number }
  | {
      fact: 'gesture';
      via: 'address' | 'folder';
      detail: string;
      by: string | null;
      target: RecordKind | 'rules' | null;
      record: string;
      /** Missing in decisions of earlier versions. */
      recordId?: number;
      trusted: boolean;
    }
  | {
      fact: 'pin';
      does: Pin['does'];
      kind: RecordKind | null;
      /** The record's name, or null for every one of the kind. */
      record: string | null;
      /** Missing in decisions of earlier versions. */
      recordId?: number;
      reach: PinReach;
      by: string;
      at: number;
    };

/** What one step said of one email. */
export interface StepEntry {
  step: Step;
  verdict:
    | 'passed'
    | 'kept out'
    | 'taken in'
    | 'left to its owner'
    | 'matched'
    | 'no match'
    | 'waits'
    | 'created'
    | 'nothing created'
    | ShareLevel;
  /** The rule that spoke, or null when none did. */
  rule: string | null;
  evidence: readonly Evidence[];
}

/** The record of how one email was decided. Data, not prose: {@link docketSentences} puts it into words. */
export type Docket = StepEntry[];

/** What was decided about one email. */
export interface Decision {
  outcome: Outcome;
  direction: Direction;
  /** Addresses of external participants, each once. */
  externals: string[];
  externalDomains: string[];
  filings: Filing[];
  creations: Creation[];
  questions: Question[];
  visibility: ShareLevel;
  /** Teams that see it, for that level. */
  sharedTeams: string[];
  /** Whoever sees it by that level, sees only that it exists. */
  existenceOnly: boolean;
  docket: Docket;
}
