import type { ConversationMemory, DecisionFacts, Direction } from '../facts/types';
import type { AccountRecord, DealRecord, Directory, OwnRecord, PersonRecord } from '../records/directory';
import type { Participant } from '../emails/emailFacts';

/** What conditions are asked about. */
export interface AskedEmail {
  facts: DecisionFacts;
  /** Participants outside that still count. */
  externals: readonly Participant[];
  direction: Direction;
  /** What its conversation held before it. */
  memory: ConversationMemory;
}

const NONE: readonly never[] = [];

/** Everything that a condition can ask about one email. Records are looked up when they are asked for. */
export class RuleContext {
  constructor(
    public facts: DecisionFacts,
    /** Participants outside that still count. */
    public externals: readonly Participant[],
    public direction: Direction,
    public memory: ConversationMemory,
    private readonly directory: Directory,
    readonly personKey: (address: string) => string,
    /** The participant that a rule of Keep out or Create is asked about, or null. */
    readonly focus: Participant | null = null,
  ) {}

  /** From now on it is about another email: for walking over very much mail, where no one keeps it. */
  turnTo({ facts, externals, direction, memory }: AskedEmail): void {
    this.facts = facts;
    this.externals = externals;
    this.direction = direction;
    this.memory = memory;
  }

  about(focus: Participant): RuleContext {
    return new RuleContext(this.facts, this.externals, this.direction, this.memory, this.directory, this.personKey, focus);
  }

  /** Contacts and leads with this participant's address; not those that this very email created. */
  people(participant: Participant): readonly PersonRecord[] {
    return this.peopleByOrigin(participant).before;
  }

  /** Contacts and leads with this participant's address, those that this very email created apart. */
  peopleByOrigin(participant: Participant): { before: readonly PersonRecord[]; ofThis: readonly PersonRecord[] } {
    const { id } = this.facts;
    const people = this.directory.peopleAt(this.personKey(participant.address));
    // Hardly ever did the email itself create one of them; else the list is as the directory has it.
    if (!people.some((person) => person.originEmailId === id)) return { before: people, ofThis: NONE };
    return {
      before: people.filter((person) => person.originEmailId !== id),
      ofThis: people.filter((person) => person.originEmailId === id),
    };
  }

  /** The accounts of this participant: by person, else by domain. */
  accounts(participant: Participant): readonly AccountRecord[] {
    const byPerson = this.people(participant).flatMap((person) => this.directory.accountOf(person, participant, this.facts.at) ?? []);
    return byPerson.length > 0
      ? byPerson
      : this.directory.accountsOfDomain(participant.domain).filter((account) => account.originEmailId !== this.facts.id);
  }

  /** Records of the workspace's own kinds: those that the participant is on, to which the address leads, or of their account alone. */
  own(participant: Participant): readonly OwnRecord[] {
    const { own } = this.directory;
    if (own.isEmpty) return NONE;
    return [
      ...this.people(participant).flatMap((person) => own.ofPerson(person)),
      ...own.at(this.personKey(participant.address)),
      ...this.accounts(participant).flatMap((account) => own.ofAccount(account.id)),
    ];
  }

  deals(participant: Participant): readonly DealRecord[] {
    return this.people(participant).flatMap((person) => this.directory.dealsOf(person));
  }
}
