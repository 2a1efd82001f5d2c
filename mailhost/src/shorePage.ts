import type { IncomingMessage, ServerResponse } from 'node:http';
import { randomUUID } from 'node:crypto';
import { meeting } from './calendars';
import type { Delivery } from './delivery';
import type { Faults, FaultPlan } from './faults';
import { NO_FAULTS } from './faults';
import type { MailStore } from './mailStore';
import { html, page, readForm, redirect, sendJson } from './web';

const FAULT_WORDS: Record<keyof Faults, string> = {
  down: 'Down: every connection is closed at once',
  refuseSignIn: 'Refuse sign-in',
  imapOff: 'IMAP door is shut',
  smtpOff: 'Sending door is shut',
  refuseContent: 'Refuse every email that is sent',
  loseAnswer: 'Take an email, and close before the answer',
  keepNoCopy: 'Keep no copy of what is sent',
  delayMs: 'Wait before each answer (ms)',
  dropAfterBytes: 'Drop the connection after so many bytes',
  brokenAnswers: 'So many broken answers',
  throttleAfter: 'Shut out after so many commands',
  noIdle: 'No IDLE',
  expungeWhileReading: 'Emails vanish while they are read',
};

/** The page on which a person plays the outside correspondent and tells the provider to misbehave; the same as JSON under `/play`. */
export class ShorePage {
  constructor(
    private readonly store: MailStore,
    private readonly delivery: Delivery,
    private readonly faults: FaultPlan,
  ) {}

  async handle(req: IncomingMessage, res: ServerResponse, url: URL): Promise<boolean> {
    if (req.method === 'GET' && url.pathname === '/') this.show(res, url.searchParams.get('done') ?? '');
    else if (req.method === 'GET' && url.pathname === '/play/outside') sendJson(res, 200, { outside: this.delivery.outside });
    else if (req.method === 'POST' && url.pathname.startsWith('/play/')) await this.act(req, res, url.pathname.slice(6));
    else return false;
    return true;
  }

  private async act(req: IncomingMessage, res: ServerResponse, what: string): Promise<void> {
    // Only the page's own forms: another site's page must not write mail here.
    const origin = req.headers.origin;
    if (origin !== undefined && new URL(origin).host !== req.headers.host)
      return sendJson(res, 403, { error: 'Other pages may not do this.' });
    const form = await readForm(req);
    const get = (name: string): string => form.get(name) ?? '';
    const wantsJson = req.headers['content-type']?.includes('json') === true;
    const done = (words: string, value: object): void =>
      wantsJson ? sendJson(res, 200, value) : redirect(res, `/?done=${encodeURIComponent(words)}`);
    if (what === 'write') {
      if (!get('from').includes('@') || !get('to').includes('@')) return sendJson(res, 400, { error: 'from and to need an address.' });
      return done('Sent.', {
        messageId: this.delivery.write({
          from: get('from'),
          to: get('to'),
          subject: get('subject'),
          text: get('text'),
          ...(get('cc') ? { cc: get('cc') } : {}),
        }),
      });
    }
    if (what === 'answer') {
      const messageId = this.delivery.answer(get('id'), get('text'));
      return messageId === null ? sendJson(res, 404, { error: 'There is no such email.' }) : done('Answered.', { messageId });
    }
    if (what === 'event') {
      const account = this.store.accounts.get(get('address').toLowerCase());
      const at = Date.parse(get('at').length === 16 ? `${get('at')}:00Z` : get('at'));
      if (!account || !Number.isFinite(at)) return sendJson(res, 400, { error: 'address and at are needed.' });
      const uid = `${randomUUID()}@longshore.example`;
      this.store.putEvent(
        account,
        'Work',
        `${uid}.ics`,
        meeting({ uid, at, organizer: account.address, guest: get('guest'), summary: get('summary') }),
      );
      return done('It is in the calendar.', { uid });
    }
    if (what === 'faults') {
      this.faults.set(faultsOf(form, wantsJson), get('address') || undefined);
      return done('The provider behaves as told.', this.faults.all());
    }
    if (what === 'renumber') {
      const account = this.store.accounts.get(get('address').toLowerCase());
      const folder = account?.folders.get(get('folder') || 'INBOX');
      if (!account || !folder) return sendJson(res, 404, { error: 'There is no such folder.' });
      this.store.renumber(account, folder);
      return done('The folder has a new UIDVALIDITY.', { uidValidity: folder.uidValidity });
    }
    return sendJson(res, 404, { error: 'There is nothing here.' });
  }

  private show(res: ServerResponse, done: string): void {
    const accounts = [...this.store.accounts.keys()].sort();
    const options = accounts.map((account) => `<option>${html(account)}</option>`).join('');
    const everyone = this.faults.of(null);
    const letters = this.delivery.outside
      .slice(0, 30)
      .map(
        (
          mail,
        ) => `<article><b>${html(mail.subject || '(no subject)')}</b><br><small>${html(mail.from)} to ${html(mail.to)}, ${new Date(mail.at).toISOString().slice(0, 16).replace('T', ' ')}${mail.answered ? ', answered' : ''}</small>
        <pre>${html(mail.text)}</pre><form method="post" action="/play/answer"><input type="hidden" name="id" value="${mail.id}"><label>Answer as ${html(mail.to)}<textarea name="text" rows="2" required></textarea></label><button>Answer</button></form></article>`,
      )
      .join('');
    const faults = (Object.keys(NO_FAULTS) as (keyof Faults)[])
      .map((name) =>
        typeof NO_FAULTS[name] === 'boolean'
          ? `<label><input type="checkbox" name="${name}"${everyone[name] ? ' checked' : ''}> ${html(FAULT_WORDS[name])}</label>`
          : `<label>${html(FAULT_WORDS[name])} <input name="${name}" type="number" min="0" value="${String(everyone[name])}"></label>`,
      )
      .join('');
    page(
      res,
      200,
      'Longshore Mail, the made-up provider',
      `${done ? `<p role="status"><b>${html(done)}</b></p>` : ''}
      <p>This provider runs on this machine only. Here you play the external people, and tell the provider to misbehave.</p>
      <h2>Write to a teammate as someone outside</h2>
      <form method="post" action="/play/write"><div class="row"><label>From <input name="from" value="Ida Brack &lt;ida.brack@stavrin-harbour.example&gt;" required></label>
      <label>To <select name="to">${options}</select></label></div><label>Subject <input name="subject" required></label><label>Text <textarea name="text" rows="4" required></textarea></label><button>Send</button></form>
      <h2>Put a meeting into the calendar of a teammate</h2>
      <form method="post" action="/play/event"><div class="row"><label>Calendar of <select name="address">${options}</select></label><label>With <input name="guest" value="ida.brack@stavrin-harbour.example" required></label>
      <label>About <input name="summary" required></label><label>Begins (UTC) <input name="at" type="datetime-local" required></label></div><button>Put it there</button></form>
      <h2>What reached external people</h2>${letters || '<p>Nothing yet. Emails that teammates send to external people appear here, to be answered.</p>'}
      <h2>Misbehave</h2><form method="post" action="/play/faults"><div class="row">${faults}</div><label>For <select name="address"><option value="">everyone</option>${options}</select></label><button>Behave so</button></form>
      <h2>Renumber a folder</h2><form method="post" action="/play/renumber"><div class="row"><label>Mailbox <select name="address">${options}</select></label><label>Folder <input name="folder" value="INBOX"></label></div><button>Give it a new UIDVALIDITY</button></form>`,
    );
  }
}

/** A form leaves out boxes that are not ticked; JSON says only what changes. */
function faultsOf(form: URLSearchParams, partial: boolean): Partial<Faults> {
  const entries = (Object.keys(NO_FAULTS) as (keyof Faults)[])
    .filter((name) => !partial || form.has(name))
    .map((name) => {
      const text = form.get(name) ?? '';
      return [name, typeof NO_FAULTS[name] === 'boolean' ? text === 'on' || text === 'true' : Math.max(0, Number(text) || 0)];
    });
  return Object.fromEntries(entries) as Partial<Faults>;
}
