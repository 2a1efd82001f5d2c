import type { EachProposal, NewPerson, OwnKind, RecordKind, RepairRequest } from '@fulvet/contract';

/** What is to come of one proposal: nothing, a new record, or one that is there, as `kind:id`. */
export type Fate = 'nothing' | 'new' | `${RecordKind}:${number}`;

export interface EachRow {
  fate: Fate;
  name: string;
}

export interface EachValues {
  rows: EachRow[];
  /** Stage of deals, state of records of own kinds. */
  stage: string;
  /** Address of a member. */
  owner: string;
  /** What is added to each name. */
  suffix: string;
  /** People in no record, and companies that are no account, are created, too. */
  withOthers: boolean;
}

/** New, where a record is proposed and none is there that it may be. */
export const rowOf = ({ name, unfit, alike }: EachProposal): EachRow => ({
  fate: unfit !== null || alike.length > 0 ? 'nothing' : 'new',
  name,
});

/** What is sent for the proposals, in the order in which they are shown. */
export function eachRequest(
  emails: readonly number[],
  kind: RecordKind,
  own: OwnKind | null,
  proposals: readonly EachProposal[],
  { rows, stage, owner, suffix, withOthers }: EachValues,
): RepairRequest {
  const chosen = proposals.flatMap((proposal, at) => {
    const row = rows[at];
    return row && row.fate !== 'nothing' ? [{ proposal, row }] : [];
  });
  const isNew = chosen.filter(({ row }) => row.fate === 'new').map(({ proposal }) => proposal);
  const together = kind === 'deal' || kind === 'own';
  return {
    emails: [...emails],
    reach: 'conversation',
    people: withOthers && kind !== 'contact' && kind !== 'lead' ? isNew.flatMap(newPeople) : [],
    each: {
      kind,
      values: {
        ...(owner === '' ? {} : { owner }),
        ...(own ? { kind: own.key } : {}),
        ...(stage === '' ? {} : { [kind === 'own' ? 'state' : 'stage']: stage }),
      },
      entries: chosen.map(({ proposal, row }) => {
        const addresses = proposal.people.map(({ address }) => address);
        const file = fileOf(row.fate);
        if (file) return { addresses, file };
        const name = together && suffix.trim() !== '' ? `${row.name.trim()} ${suffix.trim()}` : row.name.trim();
        const newAccount = withOthers && belongsToAccount(kind, own) && !proposal.account ? companyOf(proposal) : null;
        return { addresses, values: { name, ...valuesOf(kind, own, proposal) }, ...(newAccount ? { newAccount } : {}) };
      }),
    },
  };
}

const belongsToAccount = (kind: RecordKind, own: OwnKind | null): boolean =>
  kind === 'contact' || kind === 'deal' || (kind === 'own' && own?.hasAccount === true);

function fileOf(fate: Fate): { kind: RecordKind; id: number } | null {
  const [kind, id] = fate.split(':');
  return kind && id ? { kind: kind as RecordKind, id: Number(id) } : null;
}

const companyOf = ({ domain, people }: EachProposal): { name: string; domain: string } | null => {
  const company = people.find((person) => person.company !== '')?.company ?? '';
  // Several accounts may share the domain: which of them is for a person to say.
  return company === '' || people.some(({ accounts }) => accounts.length > 0) ? null : { name: company, domain };
};

function valuesOf(kind: RecordKind, own: OwnKind | null, { people, account, domain }: EachProposal): Record<string, string> {
  const [person] = people;
  const addresses = people.map(({ address }) => address).join(';');
  const ofAccount: Record<string, string> = account ? { account: account.name } : {};
  if (kind === 'contact' || kind === 'lead') {
    const { title = '', phones = [], company = '' } = person ?? {};
    return {
      emails: addresses,
      ...(title === '' ? {} : { title }),
      ...(phones.length === 0 ? {} : { phone: phones.join(';') }),
      ...(kind === 'contact' ? ofAccount : company === '' ? {} : { company }),
    };
  }
  if (kind === 'account') return domain === '' ? {} : { domains: domain };
  return {
    ...(kind === 'deal' || own?.hasAccount ? ofAccount : {}),
    ...(kind === 'deal' || own?.hasPeople ? { people: addresses } : {}),
  };
}

/** The people of a proposal who are in no record, as contacts of their company. */
const newPeople = (proposal: EachProposal): NewPerson[] =>
  proposal.people
    .filter(({ record, role, machine, keptOut }) => !record && !role && !machine && !keptOut)
    .map(({ address, name, title, phones }) => ({
      kind: 'contact',
      address,
      name: name || address,
      title,
      phones,
      account: proposal.account ? { id: proposal.account.id } : companyOf(proposal),
    }));
