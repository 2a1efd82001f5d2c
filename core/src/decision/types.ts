import type { RecordKind } from '../directory/directory';
import type { Participant } from '../message/emailFacts';
import type { MailClass } from '../message/mailClass';
import type { Sensitivity } from '../message/sensitivity';
import type { Hit } from '../rulebook/hit';

export type Direction = 'sent' | 'received' | 'internal';
export const OUTCOMES = ['filed', 'waiting', 'loose', 'kept out', 'sealed'] as const;
export type Outcome = (typeof OUTCOMES)[number];
/** Who sees an email beside those who use the mailboxes that hold it. */
export const SHARE_LEVELS = ['owner', 'record', 'teams', 'everyone'] as const;
export type ShareLevel = (typeof SHARE_LEVELS)[number];
export const STOPS = ['keepOut', 'takeIn', 'match', 'create', 'share'] as const;
export type Stop = (typeof STOPS)[number];

/** What the decision needs of an email's facts. */
export interface DecisionFacts {
  /** Id of the stored email; origins of created records refer to it. */
  id: number;
  /** Milliseconds. */
  at: number;
  subject: string;
  /** The body's text, where a rule asks for it; else empty. */
  text: string;
  /** Words of what the sender wrote that may be reference codes, in capitals. */
  codes: readonly string[];
  /** Names of the attachments. */
  attachments: readonly string[];
  /** Bytes of the source. */
  size: number;
  sensitivity: Sensitivity | null;
  /** Where it lies: names of folders, addresses of mailboxes and of their members. */
  folders: readonly string[];
  mailboxes: readonly string[];
  users: readonly string[];
  /** Teams of those members, in small letters. */
  teams: readonly string[];
  mailClass: MailClass;
  classProof: { header: string; value: string } | null;
  participants: readonly Participant[];
  /** What people said about it in their mail programs. */
  gestures: readonly Gesture[];
  /** Addresses outside that everybody in whose mailbox it lies keeps out of their mail. */
  ownKeptOut: readonly string[];
  /** What people decided about it by hand. */
  pins: readonly Pin[];
  /** What owners of mailboxes that hold it say of who sees it, beside the rules. */
  ownWords: readonly OwnWord[];
  /** What comes in from the mailboxes that hold it, by the widest of their owners’ words; `rules`: what the rulebook says. */
  ownTakeIn: 'rules' | 'known' | 'byHand';
  /** True where a mailbox that holds it lets the rulebook say who sees it; else those who use its mailboxes only. */
  sharedByRules: boolean;
  /** True where nobody of the team has it in a mailbox of theirs: it came to a filing address alone. */
  atFilingAddressOnly: boolean;
}

/** A person's word by what they did in their mail program: a filing address used, an email moved to a folder that stands for a record. */
export interface Gesture {
  via: 'address' | 'folder';
  /** `rules` for a folder "file this by the rules"; null for a filing address that no record has. */
  target: RecordKind | 'rules' | null;
  recordId: number | null;
  recordName: string;
  /** The address, or mailbox and folder, as written. */
  detail: string;
  /** Who did it, or null where that is not known. */
  by: string | null;
  /** False for a filing address used by somebody who is not on the team. */
  trusted: boolean;
}

/** To which emails of the conversation a pin on one of them reaches: that one; that one and later ones; all up to when it was said; all. */
export const PIN_REACHES = ['email', 'onward', 'soFar', 'conversation'] as const;
export type PinReach = (typeof PIN_REACHES)[number];
/** settle: its questions are answered as it stands. seal: for its owners alone. */
export const PIN_DEEDS = ['file', 'takeOff', 'settle', 'seal'] as const;

/** A decision by a person; rules never overturn it. */
export interface Pin {
  id: number;
  does: (typeof PIN_DEEDS)[number];
  /** Null: about no record, or about every one. */
  kind: RecordKind | null;
  /** Null: every one of the kind. */
  recordId: number | null;
  recordName: string;
  reach: PinReach;
  /** Who said it. */
  by: string;
  /** Whoever said it uses a mailbox that holds the email: only then it comes in by that, and only then it is sealed by that. */
  own: boolean;
  /** When, milliseconds. */
  at: number;
}

/** What an owner's word is about, the most particular first. */
export const WORD_SCOPES = ['email', 'conversation', 'person', 'domain'] as const;
export type WordScope = (typeof WORD_SCOPES)[number];

/** The word of somebody in whose mailbox an email lies about who sees it. */
export interface OwnWord {
  /** seal: nobody else. share: at that level. */
  does: 'seal' | 'share';
  scope: WordScope;
  /** Address or domain, or empty. */
  value: string;
  level: ShareLevel;
  /** In small letters. */
  teams: readonly string[];
  existenceOnly: boolean;
  /** Whose word: their id and name. */
  userId: number;
  by: string;
  /** When it was said, milliseconds. */
  at: number;
}

/** What earlier decisions in the same conversation say. */
export interface ConversationMemory {
  /** The deal that a person or a certain match put the conversation under. */
  dealId: number | null;
  /** Base subject, in comparable form, of the email that put it there; null where that is not known. */
  dealSubject: string | null;
  /** Base subjects, in comparable form, under which it turned to other matters than that of its deal. */
  otherMatters: ReadonlySet<string>;
  /** When its last email was sent, milliseconds, or null. */
  lastAt: number | null;
  /** True when an earlier email of the conversation is ours. */
  weWrote: boolean;
  /** True when an earlier email of the conversation was filed. */
  filed: boolean;
  /** Earlier emails of the conversation. */
  earlier: number;
  /** Records that earlier emails stand under, as `kind:id`. */
  records: ReadonlySet<string>;
}

/** Nothing came before. */
export const NO_MEMORY: ConversationMemory = {
  dealId: null,
  dealSubject: null,
  otherMatters: new Set(),
  lastAt: null,
  weWrote: false,
  filed: false,
  earlier: 0,
  records: new Set(),
};

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

/** A piece of what a stop rested its word on. */
export type Evidence =
  | { fact: 'direction'; direction: Direction; external: number }
  | { fact: 'mail class'; mailClass: MailClass; header: string; value: string }
  | { fact: 'own list'; list: string }
  | { fact: 'entry'; entry: string; value: string; participant: string; effect: 'disregard' | 'keepOut' }
  | { fact: 'own keep out'; participant: string }
  | { fact: 'nobody left'; disregarded: number }
  | { fact: 'scope'; scope: string; known: string[]; conversationFiled: boolean }
  | { fact: 'own scope'; scope: 'known' | 'byHand' }
  | { fact: 'person'; address: string; kind: 'contact' | 'lead'; id: number; name: string }
  | { fact: 'account'; id: number; name: string; by: 'person' | 'domain' | 'colleagues' | 'name'; via: string }
  | { fact: 'shared domain'; domain: string; candidates: { id: number; name: string }[] }
  | { fact: 'provider'; domain: string }
  | { fact: 'unknown'; address: string }
  | { fact: 'deal'; id: number; name: string; by: 'conversation' | 'code' | 'only open' | 'account' | 'score'; via: string }
  | {
      fact: 'new matter';
      id: number;
      name: string;
      subject: string;
      /** Its deal was closed; it had rested for so many days; the subject names other deals; it turned to this matter before. */
      because?: 'closed' | 'rested' | 'names others' | 'turned before';
      days?: number;
    }
  | { fact: 'deals too young'; candidates: { id: number; name: string }[]; days: number }
  | { fact: 'deal scores'; scores: DealScore[]; threshold: number; margin: number }
  | { fact: 'rule'; rule: string; name: string; hits: Hit[] }
  | { fact: 'several codes'; candidates: { id: number; name: string }[] }
  | { fact: 'open deals'; candidates: { id: number; name: string }[] }
  | { fact: 'created'; kind: 'contact' | 'lead' | 'account'; id: number; name: string; via: string; confidence: number }
  | {
      fact: 'not created';
      address: string;
      /** Whom it may be at another address. */
      like?: { kind: 'contact' | 'lead'; id: number; name: string };
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
        | 'too many people';
    }
  | {
      fact: 'level';
      level: ShareLevel;
      teams?: string[];
      existenceOnly?: boolean;
      because: 'policy' | 'rule' | 'not filed' | 'mailbox' | 'word';
    }
  | { fact: 'own word'; does: OwnWord['does']; scope: WordScope; value: string; by: string; at: number }
  | {
      fact: 'gesture';
      via: 'address' | 'folder';
      detail: string;
      by: string | null;
      target: RecordKind | 'rules' | null;
      record: string;
      trusted: boolean;
    }
  | {
      fact: 'pin';
      does: Pin['does'];
      kind: RecordKind | null;
      /** The record's name, or null for every one of the kind. */
      record: string | null;
      reach: PinReach;
      by: string;
      at: number;
    };

/** What one stop said of one email. */
export interface StopEntry {
  stop: Stop;
  verdict: 'passed' | 'kept out' | 'tracked' | 'left loose' | 'matched' | 'no match' | 'waits' | 'created' | 'nothing created' | ShareLevel;
  /** The rule that spoke, or null when none did. */
  rule: string | null;
  evidence: readonly Evidence[];
}

/** The record of how one email was decided. Data, not prose: {@link docketSentences} puts it into words. */
export type Docket = StopEntry[];

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
