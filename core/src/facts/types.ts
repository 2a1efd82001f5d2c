import type { Participant } from '../emails/emailFacts';
import type { MailClass } from '../emails/mailClass';
import type { SenderCheck } from '../emails/senderCheck';
import type { Sensitivity } from '../emails/sensitivity';
import type { RecordKind } from './recordKind';

export type Direction = 'sent' | 'received' | 'internal';

export const OUTCOMES = ['filed', 'waiting', 'unfiled', 'kept out', 'sealed'] as const;

export type Outcome = (typeof OUTCOMES)[number];

/** Who sees an email beside those who use the mailboxes that hold it. */
export const SHARE_LEVELS = ['owner', 'record', 'teams', 'everyone'] as const;

export type ShareLevel = (typeof SHARE_LEVELS)[number];

export const STEPS = ['keepOut', 'takeIn', 'match', 'create', 'share'] as const;

export type Step = (typeof STEPS)[number];

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
  /** The words that follow each other in what the sender wrote, as {@link wordPairsOf} keeps them. */
  wordPairs: string;
  /** Names of the attachments. */
  attachments: readonly string[];
  /** Bytes of the source. */
  size: number;
  sensitivity: Sensitivity | null;
  /** Whether the server that received it could confirm its sender. */
  senderCheck: SenderCheck;
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
  /** Addresses outside that everyone in whose mailbox it lies keeps out of their mail. */
  ownKeptOut: readonly string[];
  /** What people decided about it by hand. */
  pins: readonly Pin[];
  /** What owners of mailboxes that hold it say of who sees it, beside the rules. */
  sharingChoices: readonly SharingChoice[];
  /** What comes in from the mailboxes that hold it, by the widest of their owners’ words; `rules`: what the rulebook says. */
  ownTakeIn: 'rules' | 'known' | 'byHand';
  /** True where a mailbox that holds it lets the rulebook say who sees it; else those who use its mailboxes only. */
  sharedByRules: boolean;
  /** True where no one of the team has it in a mailbox of theirs: it came to a filing address alone. */
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
  /** False for a filing address used by someone who is not on the team. */
  trusted: boolean;
}

/** To which emails of the conversation a pin on one of them reaches: that one; that one and later ones; all up to when it was said; all. */
export const PIN_REACHES = ['email', 'onward', 'soFar', 'conversation'] as const;

export type PinReach = (typeof PIN_REACHES)[number];

/** principal: filed, and shown before its other records. settle: its questions are answered as it stands. seal: for its owners alone. */
export const PIN_DEEDS = ['file', 'principal', 'takeOff', 'settle', 'seal'] as const;

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

export type ChoiceScope = (typeof WORD_SCOPES)[number];

/** The word of someone in whose mailbox an email lies about who sees it. */
export interface SharingChoice {
  /** seal: no one else. share: at that level. */
  does: 'seal' | 'share';
  scope: ChoiceScope;
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

/** A deal that a person or a certain match put emails of a conversation under, with whom they were. */
export interface ConversationDeal {
  dealId: number;
  /** Base subject, in comparable form, of the email that put it there; null where that is not known. */
  subject: string | null;
  /** Who took part in the emails under it, as `@address`, and their records, as `kind:id`; null where that is not known. */
  parties: ReadonlySet<string> | null;
}

/** What earlier decisions in the same conversation say. */
export interface ConversationMemory {
  /** The deals that emails of it stand under, the one that was written about last at the end. */
  deals: readonly ConversationDeal[];
  /** Base subjects, in comparable form, under which it turned to other matters than those of its deals. */
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
  deals: [],
  otherMatters: new Set(),
  lastAt: null,
  weWrote: false,
  filed: false,
  earlier: 0,
  records: new Set(),
};
