import { routeTo } from '../../server/src/testing/routeTo';
import { call, finished, owner, setUpCrew, startTestServer } from '../../server/src/testing/testServer';
import { report } from './measure';
import { makeMillionWorld, MILLION } from './world/millionWorld';

/** The columns that a trial reads, as one query over all mail. */
const COLUMNS = `SELECT e.id, e.sent_at, e.mail_class, e.class_header, e.class_value, e.conversation_id, e.owner_ids, e.outcome, e.direction, e.visibility, e.shared_teams, e.existence_only, e.decided_at, e.size, e.sensitivity, e.steps::text, c.subject, c.codes, c.word_pairs,
    p.people, f.filings, h.held
  FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id
  LEFT JOIN LATERAL (SELECT string_agg(q.role || chr(31) || q.address || chr(31) || q.domain || chr(31) || q.name, chr(30) ORDER BY q.role, q.position) AS people FROM participants q WHERE q.email_id = e.id) p ON true
  LEFT JOIN LATERAL (SELECT string_agg(kind || ':' || record_id || ':' || rule, ',' ORDER BY kind, record_id) AS filings FROM filings WHERE email_id = e.id) f ON true
  LEFT JOIN LATERAL (SELECT string_agg(s.mailbox_id || chr(31) || s.folder, chr(30) ORDER BY s.mailbox_id, s.folder) AS held FROM sightings s WHERE s.email_id = e.id) h ON true
  ORDER BY e.sent_at, e.id`;

const seconds = (from: number): number => (performance.now() - from) / 1000;
const rule = (id: string, when: object, then: object) => ({ id, name: id, when, then });

/** A trial over a million emails, against COPY of the same columns; and the recount of one changed rule. */
async function main(): Promise<void> {
  const size = { ...MILLION, emails: Number(process.env.BENCH_EMAILS ?? MILLION.emails) };
  const server = await startTestServer();
  let peak = 0;
  const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 200);
  try {
    const crew = await setUpCrew(server);
    const made = performance.now();
    await makeMillionWorld(server.ownerUrl, size);
    const making = seconds(made);
    const token = crew.tokens.admin;
    const draft = (await server.call(routeTo('getDraft'), { token })).json;
    const press = {
      any: [76, 77, 78, 79].map((at) => ({
        fact: 'participant',
        which: 'any',
        test: { is: 'domain', value: `company-${at}.example`, exactly: false },
      })),
    };
    const offers = { all: [{ fact: 'subject', test: { contains: ['calibration'] } }, press] };
    const tried = {
      ...draft.document,
      takeIn: { ...draft.document.takeIn, rules: [rule('take-in', offers, { do: 'leaveToOwner' })] },
      match: { ...draft.document.match, rules: [rule('match', press, { do: 'neverDeals' })] },
    };
    await server.call(routeTo('putDraft', { revision: draft.revision }), { token, body: tried });

    await owner(server.ownerUrl, `COPY (${COLUMNS}) TO '/dev/null'`);
    const copied = performance.now();
    await owner(server.ownerUrl, `COPY (${COLUMNS}) TO '/dev/null'`);
    const copying = seconds(copied);

    peak = 0;
    const begun = performance.now();
    const started = await server.call(routeTo('startTrial'), { token, body: {} });
    const trial = await finished(server, token, routeTo('getTrial', { id: started.json.id }));
    const trying = seconds(begun);
    const trialPeak = peak;
    if (trial.state !== 'done') throw new Error(trial.message);

    const recount = async (body: object): Promise<number> => {
      const from = performance.now();
      const answer = await call(server.url, routeTo('countRule'), { token, body });
      if (answer.status !== 200) throw new Error(answer.text);
      return seconds(from);
    };
    peak = 0;
    const domain = { step: 'keepOut', rule: rule('other', press, { do: 'ignore' }) };
    const subject = { step: 'takeIn', rule: rule('other', { fact: 'subject', test: { contains: ['invoice'] } }, { do: 'leaveToOwner' }) };
    const newest = await recount({ ...subject, partly: true });
    const first = newest + (await recount(domain));
    const byDomain = Math.min(await recount(domain), await recount(domain), await recount(domain));
    const bySubject = Math.min(await recount(subject), await recount(subject), await recount(subject));
    const mb = (bytes: number): string => `${Math.round(bytes / 1e6)} MB`;
    report(`trial over ${size.emails} emails`, [
      ['making the world', `${making.toFixed(0)} s`],
      ['COPY of the same columns', `${copying.toFixed(1)} s`],
      ['trial', `${trying.toFixed(1)} s, ${trial.summary.emails} emails, ${trial.summary.changed} would change`],
      ['ratio to COPY', `${(trying / copying).toFixed(2)} (goal at most 2)`],
      ['resident memory at most', `${mb(trialPeak)} (goal under 1500 MB)`],
      ['first count of a rule', `${newest.toFixed(1)} s for the newest emails`],
      ['until all past mail is in memory', `${first.toFixed(1)} s`],
      ['recount, a rule by domain', `${(byDomain * 1000).toFixed(0)} ms, ${(byDomain / trying).toFixed(4)} of a trial (goal 0.1)`],
      ['recount, a rule by subject', `${(bySubject * 1000).toFixed(0)} ms, ${(bySubject / trying).toFixed(4)} of a trial (goal 0.1)`],
      ['resident memory, counting', mb(peak)],
    ]);
  } finally {
    clearInterval(watch);
    await server.remove();
  }
}

await main();
