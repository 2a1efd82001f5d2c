import { domainOf } from '../address/address';

/** Someone who is to get an email. */
export interface Recipient {
  address: string;
  isOurs: boolean;
  /** Anyone can have an address there: it is no company's. */
  isPublic: boolean;
  /** The account that they belong to. */
  account: { id: number; name: string } | null;
  /** The last email to them came back. */
  bounced: boolean;
  /** Their mail is kept out, by what. */
  keptOutBy: string | null;
  /** They were erased, and asked that nothing be kept of them. */
  erased: boolean;
}

/** Something that a writer may have overlooked. */
export interface SendWarning {
  code: 'other company' | 'kept out' | 'erased' | 'bounced' | 'only colleagues' | 'no file' | 'ended link' | 'no subject';
  text: string;
}

const MENTIONS_FILE =
  /\b(?:attached|attachment|attachments|enclosed|attaching)\b|\b(?:im anhang|anbei|beigefügt|angehängt|en pièce jointe|ci-joint|adjunto|adjunta|en anexo|in allegato|allegato|bijgevoegd|in de bijlage|vedlagt|bifogat|bifogad)\b/iu;

/**
 * What a writer may have overlooked, each with its reason. Nothing here keeps an email from being sent.
 *
 * @param text what the writer says, without what is quoted
 * @param files how many files go along, linked ones included
 * @param endedLinks titles of documents to which the text has links that do not answer any more
 */
export function sendWarnings({
  recipients,
  subject,
  text,
  files,
  endedLinks = [],
}: {
  recipients: readonly Recipient[];
  subject: string;
  text: string;
  files: number;
  endedLinks?: readonly string[];
}): SendWarning[] {
  const external = recipients.filter((recipient) => !recipient.isOurs);
  return [
    ...strangersAmong(external),
    ...external.flatMap(({ address, keptOutBy }): SendWarning[] =>
      keptOutBy === null ? [] : [{ code: 'kept out', text: `${address} is kept out by ${keptOutBy}. This email would not be filed.` }],
    ),
    ...external.flatMap(({ address, erased }): SendWarning[] =>
      erased ? [{ code: 'erased', text: `${address} asked to be erased. Write only if they asked you to.` }] : [],
    ),
    ...recipients.flatMap(({ address, bounced }): SendWarning[] =>
      bounced ? [{ code: 'bounced', text: `The last email to ${address} came back. Check the address.` }] : [],
    ),
    ...(recipients.length > 0 && external.length === 0
      ? [{ code: 'only colleagues' as const, text: 'Only colleagues get this email. It would not be filed under a record.' }]
      : []),
    ...(files === 0 && MENTIONS_FILE.test(text)
      ? [{ code: 'no file' as const, text: 'Your text mentions a file, and none is attached.' }]
      : []),
    ...endedLinks.map((title): SendWarning => ({ code: 'ended link', text: `The link to ${title} has ended. Insert a new one.` })),
    ...(subject.trim() === '' ? [{ code: 'no subject' as const, text: 'The subject is empty.' }] : []),
  ];
}

/** Where most recipients are of one company, those of another are likely there by mistake. */
function strangersAmong(external: readonly Recipient[]): SendWarning[] {
  const companyOf = ({ address, account, isPublic }: Recipient): { key: string; name: string } | null =>
    account ? { key: `account ${account.id}`, name: account.name } : isPublic ? null : { key: domainOf(address), name: domainOf(address) };
  const counts = new Map<string, { name: string; people: number }>();
  for (const recipient of external) {
    const company = companyOf(recipient);
    if (company) counts.set(company.key, { name: company.name, people: (counts.get(company.key)?.people ?? 0) + 1 });
  }
  if (counts.size < 2) return [];
  const [first] = external.flatMap((recipient) => companyOf(recipient) ?? []);
  const most = Math.max(...[...counts.values()].map(({ people }) => people));
  // Of as many, the company of whoever is named first is the one that is meant.
  const main =
    first && counts.get(first.key)?.people === most ? first.key : ([...counts].find(([, { people }]) => people === most)?.[0] ?? '');
  return external.flatMap((recipient): SendWarning[] => {
    const company = companyOf(recipient);
    return company && company.key !== main
      ? [{ code: 'other company', text: `${recipient.address} is at ${company.name}, the others at ${counts.get(main)?.name ?? ''}.` }]
      : [];
  });
}
