import { CASES } from '@fulvet/contract';
import { subjectParts } from '@fulvet/core';
import type { Call } from './callerOf';

const URGENCIES = ['Low', 'Normal', 'High'] as const;
const STATES = ['New', 'In work', 'Waiting for them', 'In work', 'Solved', 'New'] as const;
/** What customers complain about, or ask to be done. */
const COMPLAINS = /no data|drift|calibration|certificate|delivery|where does it stand|export|time zone|invoice/i;
const MOST = 8;

/** Cases of the workspace: complaints of customers, each begun with an email of theirs. */
export async function addComplaints(call: Call): Promise<void> {
  await call('createOwnKind', { body: CASES });
  await call('setOwnFields', {
    kind: 'own',
    body: { of: 'case', fields: [{ label: 'Urgency', type: 'choice', choices: [...URGENCIES] }] },
  });
  const { members } = await call('listTeam');
  const { emails } = await call('listEmails', { outcome: 'filed', direction: 'received', limit: 200 });
  const seen = new Set<string>();
  const begun = emails.filter(({ content }) => {
    const subject = subjectParts(content?.subject ?? '').base;
    if (!COMPLAINS.test(subject) || seen.has(subject)) return false;
    seen.add(subject);
    return true;
  });
  for (const [at, email] of begun.slice(0, MOST).entries()) {
    const holder = members.find((member) => email.mailboxes.includes(member.email));
    const account = email.filings.find(({ kind }) => kind === 'account');
    await call('repair', {
      body: {
        emails: [email.id],
        reach: 'conversation',
        own: {
          kind: 'case',
          name: subjectParts(email.content?.subject ?? '').base,
          accountId: account?.id ?? null,
          people: [email.content?.from?.address ?? ''],
          values: {
            state: STATES[at % STATES.length] ?? 'New',
            urgency: URGENCIES[at % URGENCIES.length] ?? 'Normal',
            ...(holder ? { owner: holder.email } : {}),
          },
        },
      },
    });
  }
}
