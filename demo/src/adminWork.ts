import { DEAL_MARGIN, parsedRulebook } from '@fulvet/core';
import type { ConditionInput, Rulebook, RuleStep } from '@fulvet/core';
import { callerOf } from './callerOf';
import type { Call } from './callerOf';
import { demoDocuments, pdfOf } from './documents';
import { addSeries } from './series';
import { addComplaints } from './complaints';
import { addTasks } from './tasks';
import { DEMO_TEMPLATES } from './templates';
import { OWN_DOMAIN } from './world';

/** Rules as a file may give them: what is left out has its default. */
type WrittenRule = { id: string; note: string; when: ConditionInput; then: Record<string, unknown>; appliesTo?: { teams: string[] } };

/** How far the best deal must be ahead in the pilot. */
const SMALL_MARGIN = 0.05;
const LOOK_MS = 300;
const LONGEST_MS = 180_000;
/** Mailboxes of the pilot: their people are often the first to write to someone. */
const PILOTED = [`freya.zandvoorde@${OWN_DOMAIN}`, `ines.marchetta@${OWN_DOMAIN}`];
const TEAMS: Record<string, string[]> = {
  'Harbours and water': ['Nadia Okonjira', 'Jonas Fenwhistle'],
  'Tender desk': ['Ines Marchetta', 'Freya Zandvoorde'],
  Service: ['Oluwaseun Thorngate', 'Kenji Moorcrest', 'Astrid Pellworm'],
};

/**
 * What an administrator and a team did once their mail was there, through the API of the running server: teams, address lists, rules with their
 * reasons, past mail decided again, questions answered, a pilot, and a draft with its trial.
 */
export async function doAdminWork(url: string, token: string, say: (line: string) => void): Promise<void> {
  const call = callerOf(url, token);
  say('Writing rules, address lists and teams …');
  await makeTeams(call);
  await addDocuments(url, token);
  await addTemplates(call);
  await addSeries(call);
  const lists = await makeLists(call);
  const { records } = await call('listRecords', { kind: 'account', text: 'Gullhaven' });
  await putLive(call, rulesOf(lists, records[0]?.id), 'The rules of the sales team');
  const { id: runId } = await call('decide', { body: {} });
  await ended(() => call('getDecideRun', { id: runId }));
  say('Answering questions, starting a pilot and a trial …');
  await answerSome(call);
  await addTasks(call);
  await addComplaints(call);
  await addMeetingKinds(call);
  await startPilot(call);
  await tryDraft(call);
}

/** What guests book: with one member, and with any of a team. */
async function addMeetingKinds(call: Call): Promise<void> {
  const { members } = await call('listTeam');
  const idsOf = (...names: string[]): number[] => members.flatMap(({ id, name }) => (names.includes(name) ? [id] : []));
  const usual = { days: [1, 2, 3, 4, 5], from: '09:00', to: '16:30', zone: 'Europe/Berlin', breakMinutes: 15 };
  await call('createMeetingKind', {
    body: {
      ...usual,
      name: 'Call of half an hour',
      about: 'We talk about your gauges and what they are to measure.',
      place: 'Video call',
      minutes: 30,
      memberIds: idsOf('Nadia Okonjira'),
    },
  });
  await call('createMeetingKind', {
    body: {
      ...usual,
      name: 'Site visit',
      about: 'One of our engineers comes to you.',
      place: 'At your harbour',
      minutes: 120,
      noticeHours: 72,
      needs: 'any',
      memberIds: idsOf('Jonas Fenwhistle', 'Oluwaseun Thorngate', 'Priya Vesterhus'),
    },
  });
}

/** The price list and its like; members link to them under the address of this server. */
async function addDocuments(url: string, token: string): Promise<void> {
  const call = callerOf(url, token);
  await call('setLinkAddress', { body: { address: url } });
  for (const { content, versions } of demoDocuments(new Date().getFullYear())) {
    const { id } = await call('createDocument', { body: content });
    for (const { name, lines } of versions) {
      const response = await fetch(`${url}/api/v1/documents/${id}/versions?name=${encodeURIComponent(name)}&type=application%2Fpdf`, {
        method: 'POST',
        headers: { authorization: `Bearer ${token}`, 'content-type': 'application/octet-stream' },
        body: new Uint8Array(pdfOf(lines)),
      });
      if (!response.ok) throw new Error(`${name}: ${await response.text()}`);
    }
  }
}

/** Offers go out with the terms of delivery. */
async function addTemplates(call: Call): Promise<void> {
  const { documents } = await call('listDocuments', { text: 'Terms of delivery' });
  for (const template of DEMO_TEMPLATES)
    await call('createTemplate', {
      body: { ...template, documentIds: template.folder === 'Offers' ? documents.map(({ id }) => id) : [] },
    });
}

/** Waits until work in the background has ended. @throws when it did not end well, or not at all */
async function ended(look: () => Promise<{ state: string; message: string }>): Promise<void> {
  for (const begun = Date.now(); Date.now() - begun < LONGEST_MS;) {
    const { state, message } = await look();
    if (state === 'done') return;
    if (state !== 'queued' && state !== 'running') throw new Error(message);
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
  throw new Error('The work in the background does not end.');
}

async function makeTeams(call: Call): Promise<void> {
  const { members } = await call('listTeam');
  for (const [name, names] of Object.entries(TEAMS))
    await call('addTeam', { body: { name, members: members.flatMap((member) => (names.includes(member.name) ? [member.id] : [])) } });
}

interface Lists {
  press: string;
  recruiting: string;
  suppliers: string;
}

async function makeLists(call: Call): Promise<Lists> {
  const make = async (name: string, note: string, entries: string): Promise<string> => {
    const { id } = await call('createAddressList', { body: { name, note } });
    await call('pasteAddressListEntries', { list: id, body: { text: entries } });
    return id;
  };
  return {
    press: await make(
      'Press and law firms',
      'They write about us, not as customers.',
      'harbour-world.example\nwater-and-data.example\ncoastal-measuring.example\nnotices@lindqvist-law.example',
    ),
    recruiting: await make('Recruiters', 'Offers of staff and job portals.', 'talent-tide.example\njobs-at-sea.example'),
    suppliers: await make('Suppliers', 'We buy from them.', 'sensor-parts.example\nrooms.quillhouse.example\nkestrel-couriers.example'),
  };
}

const subject = (...contains: string[]): ConditionInput => ({ fact: 'subject', test: { contains } });
const inList = (list: string): ConditionInput => ({ fact: 'participant', which: 'this', test: { is: 'inList', list } });
const from = (value: string): ConditionInput => ({
  fact: 'participant',
  which: 'sender',
  test: { is: 'domain', value, exactly: false },
});

function rulesOf(lists: Lists, ticketsOf: number | undefined): Record<RuleStep, WrittenRule[]> {
  return {
    keepOut: [
      {
        id: 'congress',
        note: 'Its mail is about visits of customers to our stand.',
        when: from('congress-of-gauges.example'),
        then: { do: 'letThrough' },
      },
      { id: 'press-list', note: 'Press enquiries go to the board.', when: inList(lists.press), then: { do: 'ignore' } },
      { id: 'recruiters', note: 'Not customers.', when: inList(lists.recruiting), then: { do: 'ignore' } },
      {
        id: 'applications',
        note: 'Job applications are for Human Resources only.',
        when: { all: [{ fact: 'direction', in: ['received'] }, subject('job application', 'application as')] },
        then: { do: 'keepOut' },
      },
    ],
    takeIn: [
      {
        id: 'office',
        note: 'About the office, not about a customer.',
        when: subject('copy machine', 'lunch order'),
        then: { do: 'leaveToOwner' },
      },
      {
        id: 'sent-round',
        note: 'Mail to so many people tells nothing about one customer.',
        when: { fact: 'recipients', atLeast: 60 },
        then: { do: 'leaveToOwner' },
      },
    ],
    match: [
      {
        id: 'invoices',
        note: 'Accounting wants invoices on the account only.',
        when: subject('invoice'),
        then: { do: 'neverDeals' },
      },
      ...(ticketsOf === undefined
        ? []
        : [
            {
              id: 'tickets',
              note: 'Their ticket system writes from a domain of its own.',
              when: from('desk.gullhaven-port.example'),
              then: { do: 'fileUnder', kind: 'account', id: ticketsOf },
            },
          ]),
    ],
    create: [
      {
        id: 'suppliers',
        note: 'No contacts for those we buy from.',
        when: inList(lists.suppliers),
        then: { do: 'nothing' },
      },
      {
        id: 'fair',
        note: 'People we met at a fair are leads until there is a deal.',
        when: subject('fair in Vardholm'),
        then: { do: 'lead', after: 'theyAnswered' },
      },
    ],
    share: [
      {
        id: 'staff',
        note: 'Matters of our own staff stay with whoever has the email.',
        when: subject('salary', 'sick leave', 'works council'),
        then: { do: 'owner' },
      },
      {
        id: 'complaints',
        note: 'The service team answers complaints.',
        when: subject('complaint'),
        then: { do: 'teams', teams: ['service'] },
      },
    ],
  };
}

/** Adds rules at the end of each step. */
function withRules(rulebook: Rulebook, rules: Partial<Record<RuleStep, WrittenRule[]>>): Rulebook {
  const edited: Record<string, unknown> = structuredClone(rulebook) as never;
  for (const [step, more] of Object.entries(rules)) {
    const part = edited[step] as { rules: unknown[] };
    part.rules = [...part.rules, ...more];
  }
  return parsedRulebook(edited);
}

/** Edits the draft. @returns its revision */
async function edit(call: Call, change: (rulebook: Rulebook) => Rulebook): Promise<number> {
  const draft = await call('getDraft');
  const { revision } = await call('putDraft', { revision: draft.revision, body: change(parsedRulebook(draft.document)) });
  return revision;
}

async function putLive(call: Call, rules: Record<RuleStep, WrittenRule[]>, note: string): Promise<void> {
  const revision = await edit(call, (rulebook) => withRules(rulebook, rules));
  await call('putDraftLive', { body: { revision, note } });
}

/** A third of the open questions is answered with the likeliest deal, as a team does now and then. */
async function answerSome(call: Call): Promise<void> {
  const { cases } = await call('getDesk', { whose: 'all' });
  for (const [at, item] of cases.entries()) {
    const [first] = item.candidates;
    if (at % 3 !== 0 || item.about !== 'deal' || !first) continue;
    await call('repair', {
      body: { emails: item.emails, reach: 'conversation', file: [{ kind: 'deal', id: first.id }], settle: true },
    });
  }
}

/** Where several deals are open, a smaller lead is enough for the best of them: tried for two mailboxes. */
async function startPilot(call: Call): Promise<void> {
  const revision = await edit(call, (rulebook) => ({ ...rulebook, match: { ...rulebook.match, margin: SMALL_MARGIN } }));
  await call('startPilot', { body: { revision, mailboxes: PILOTED, note: 'Fewer questions about deals' } });
}

/** What is being edited now: newcomers are created later, and large orders are seen by fewer. */
async function tryDraft(call: Call): Promise<void> {
  await edit(call, (rulebook) =>
    withRules(
      { ...rulebook, match: { ...rulebook.match, margin: DEAL_MARGIN }, create: { ...rulebook.create, after: 'theyAnswered' } },
      {
        share: [
          {
            id: 'large-deals',
            note: 'Prices of large deals are for those who work on them.',
            when: { fact: 'record', test: { field: 'dealAmount', atLeast: 80_000 } },
            then: { do: 'record', existenceOnly: true },
          },
        ],
      },
    ),
  );
  const { id } = await call('startTrial', { body: { name: 'Large deals, and fewer new contacts', days: 90 } });
  await ended(() => call('getTrial', { id }));
}
