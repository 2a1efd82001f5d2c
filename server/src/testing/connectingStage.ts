import { afterAll, afterEach, beforeAll } from '@jest/globals';
import type { MailStage } from './mailboxTools';
import { MAIL_PASSWORD, openMailStage } from './mailboxTools';
import type { Crew } from './testServer';
import { setUpCrew } from './testServer';

// A provider and an installation without mailboxes, for the tests of connecting them.

export let stage: MailStage;
export let crew: Crew;
export const rep = 'rep@quillmere.example';
beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  for (const name of ['rep', 'other', 'manager', 'admin', 'sales', 'file'])
    stage.mailhost.store.addAccount(`${name}@quillmere.example`, MAIL_PASSWORD);
});
afterAll(() => stage.close());
afterEach(() => stage.mailhost.faults.clear());
