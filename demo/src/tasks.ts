import type { Call } from './callerOf';

const DAY_MS = 86_400_000;
const ZONE = 'Europe/Berlin';

/** What members are to do, from the newest mail, and what comes back each week. */
export async function addTasks(call: Call): Promise<void> {
  const { members } = await call('listTeam');
  const { emails } = await call('listEmails', { outcome: 'filed', direction: 'received', limit: 200 });
  const day = (days: number): string => new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10);
  const due = (days: number, time: string | null = null) => ({ day: day(days), time, zone: ZONE });
  for (const member of members.filter(({ role, active }) => active && role !== 'viewer')) {
    const own = emails.filter(({ mailboxes, content }) => content !== null && mailboxes.includes(member.email));
    const assigneeId = member.id;
    const [first, second, third] = own;
    if (first)
      await call('createTask', {
        body: {
          text: `Answer ${first.content?.from?.name ?? ''}: ${first.content?.subject ?? ''}`,
          emailId: first.id,
          due: due(0),
          endsBy: 'our answer',
          assigneeId,
        },
      });
    if (second)
      await call('createTask', {
        body: { text: 'Send the tide tables that they asked for', emailId: second.id, due: due(-1, '15:00'), assigneeId },
      });
    if (third)
      await call('createTask', {
        body: { text: 'Ask again about the delivery date', emailId: third.id, due: due(3), endsBy: 'their answer', assigneeId },
      });
    await call('createTask', {
      body: { text: 'Report on open offers', due: due(4, '09:00'), repeat: { every: 1, unit: 'week' }, assigneeId },
    });
  }
  await call('createTask', {
    body: { text: 'Read the study on sediment sensors', details: 'Chapter 3 names two of our customers.' },
  });
}
