import type { Destination } from './routeTo';
import type { Made, Who } from './sightMail';
import { WHO } from './sightMail';
import type { Answer, Crew, TestServer } from './testServer';
import { changeRulebook, decideAll, eml, importMail, nothingLeftToDecide, owner } from './testServer';
import type { ModelEmail, ModelState, ModelUser } from './sightModel';

/** An installation beside a plain model of who may see what, and how people act in it. */
export abstract class SightActs {
  protected order = 0;

  protected constructor(
    readonly server: TestServer,
    protected readonly crew: Crew,
    readonly state: ModelState,
    protected readonly mail: readonly Made[],
  ) {}

  protected call(who: Who | number, target: Destination, body?: unknown): Promise<Answer> {
    const name = typeof who === 'number' ? this.nameOf(who) : who;
    return this.server.call(target, { token: this.crew.tokens[name], ...(body === undefined ? {} : { body }) });
  }

  protected nameOf(id: number): Who {
    return WHO.find((value) => this.crew.ids[value] === id) ?? 'admin';
  }

  protected user(id: number): ModelUser {
    const found = this.state.users.find((user) => user.id === id);
    if (!found) throw new Error(`no user ${id}`);
    return found;
  }

  protected byName(name: string): number {
    const who = WHO.find((value) => name === `${value} person` || (value === 'admin' && name === 'Ada Admin'));
    if (!who) throw new Error(`no one is called ${name}`);
    return this.crew.ids[who];
  }

  protected async ok(who: Who | number, target: Destination, body?: unknown): Promise<Answer['json']> {
    const answer = await this.call(who, target, body);
    if (answer.status !== 200)
      throw new Error(
        `${typeof who === 'number' ? this.nameOf(who) : who} ${target.method} ${target.path} ${JSON.stringify(body)}: ${answer.text}`,
      );
    return answer.json;
  }

  protected async putLevels(): Promise<void> {
    const { usual, marked } = this.state;
    const put = await changeRulebook(this.server, this.crew.tokens.admin, (rulebook) => {
      rulebook.share.level = usual.level as 'owner' | 'record' | 'everyone';
      rulebook.share.existenceOnly = usual.existenceOnly;
      const then = {
        do: marked.level,
        ...(marked.level === 'teams' ? { teams: marked.teams } : {}),
        ...(marked.level === 'owner' ? {} : { existenceOnly: marked.existenceOnly }),
      };
      rulebook.share.rules = [
        {
          id: 'zeta',
          name: 'zeta',
          note: '',
          on: true,
          appliesTo: { mailboxes: [], users: [] },
          when: { all: [{ fact: 'subject', test: { contains: ['zeta'] } }] },
          then,
        },
      ] as never;
    });
    if (put.status !== 200) throw new Error(put.text);
    await decideAll(this.server, this.crew.tokens.admin);
  }

  /** Waits until nothing is left to decide. */
  protected settled(): Promise<void> {
    return nothingLeftToDecide(this.server);
  }

  /**
   * Someone imports an email of their own that has Message-ID, sender and date of another. It has to become an email of its own, and to change nothing
   * about the other.
   */
  protected async forge(original: ModelEmail, box: string, way: number): Promise<string> {
    const written = this.mail.find((email) => email.id === original.messageId);
    const place = this.state.boxes.get(box);
    if (!written || !place) return 'nothing to forge';
    const key = `${written.id}x${(this.order += 1)}`;
    const text = `token${key} tide`;
    const forged = [
      { ...written, text },
      { ...written, text: `${text} and more` },
      { ...written, text, bcc: 'ida@harbour.example, mallory@elsewhere.example' },
      {
        ...written,
        text,
        to: `${box}@quillmere.example`,
        headers: `${written.headers ? `${written.headers}\r\n` : ''}Content-Type: text/plain`,
      },
    ][way];
    if (!forged || written.headers) return 'nothing to forge';
    // A blind copy to a known person would file it under more.
    const people = way === 2 ? [...new Set([...original.people, 'ida@harbour.example', 'mallory@elsewhere.example'])] : original.people;
    if (way === 2 && !original.people.includes('ida@harbour.example')) return 'nothing to forge';
    await importMail(this.server, this.crew.tokens.admin, `${box}@quillmere.example`, { 'forged.eml': eml(forged) });
    const [row] = await owner(this.server.ownerUrl, `SELECT e.id, e.outcome FROM emails e ORDER BY e.id DESC LIMIT 1`);
    this.state.emails.push({ ...original, key, id: Number(row?.id), boxes: [box], people, keptOut: row?.outcome === 'kept out' });
    this.state.owners.set(key, [...new Set([place.owner, ...place.users])]);
    return `forged ${key} in the mailbox ${box}, which ${this.nameOf(place.owner)} has`;
  }

  remove(): Promise<void> {
    return this.server.remove();
  }
}
