import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import puppeteer from 'puppeteer-core';
import { ensureChromium } from './lib/install.mjs';
import { fail, root } from './lib/run.mjs';

const HELP = `node scripts/screenshots.mjs [--url URL] [--size 1280x800] [--out FOLDER] [NAME...]

Takes the pictures of the main views from a running demo world.
`;

/** Views by file name: path, and what to do before the picture. */
const VIEWS = {
  home: { path: '/' },
  'all-mail': { path: '/all-mail' },
  decision: { path: '/all-mail?text=round+table', act: (page) => openFirst(page) },
  'keep-out': { path: '/keep-out' },
  'keep-out-dialog': { path: '/all-mail?domain=coastal-measuring.example', act: () => undefined, skip: true },
  rule: { path: '/take-in', act: (page) => writeRule(page) },
  trial: { path: '/trials', act: (page) => openTrial(page) },
  tuning: { path: '/tuning', act: (page) => page.waitForSelector('section[aria-label=Suggestions] li') },
  match: { path: '/match' },
  mailboxes: { path: '/mailboxes' },
  mailbox: { path: '/mailboxes', act: (page) => openMailbox(page) },
  connect: { path: '/mailboxes/connect', act: (page) => connectWrongly(page) },
  accounts: { path: '/records/account?sort=emails&descending=yes' },
  deals: { path: '/records/deal?as=board&open=yes' },
  desk: { path: '/desk', act: (page) => page.waitForSelector('section[aria-label="The question"] ol button') },
  'my-mail': { path: '/my-mail', act: (page) => page.waitForSelector('section[aria-label="External people in this email"] li') },
  series: { path: '/series', act: (page) => openSeries(page) },
  history: { path: '/records/account?sort=emails&descending=yes', act: (page) => openFirstRecord(page) },
  sharing: { path: '/all-mail?text=round+table', act: (page) => openEyes(page) },
  team: { path: '/team', skip: true },
  // The last: what is being written stays open over the pages after it.
  writing: { path: '/records/deal?open=yes&sort=emails&descending=yes', act: (page) => writeEmail(page) },
};

/** The series of the demo with its steps. */
async function openSeries(page) {
  await page.locator('main ::-p-text(After an offer)').click();
  await page.waitForSelector('section[aria-label=Steps] li');
}

/** Waits until nothing is loaded or counted any more and the text stands still. The stream of changes never ends, so the network says nothing. */
async function settled(page) {
  await page.waitForFunction(
    () => {
      const [text, now] = [document.body.innerText, performance.now()];
      if (window.lastSeen?.text !== text) window.lastSeen = { text, since: now };
      const isBusy = /(?:Loading|Opening|Counting|Trying out|Working out)[^\n]* …/.test(text) || document.querySelector('[aria-busy=true]');
      return !isBusy && now - window.lastSeen.since > 700;
    },
    { polling: 100, timeout: 60_000 },
  );
}

async function openFirst(page) {
  await page.waitForSelector('[role=grid] [role=row]');
  await page.focus('[role=grid]');
  await page.keyboard.press('Enter');
  await page.waitForSelector('[aria-label="The five steps"]');
}

async function openEyes(page) {
  await openFirst(page);
  await page.locator('button ::-p-text(Who sees it?)').click();
  await page.waitForSelector('ul[aria-label="Who sees it"] li');
  await page.$eval('ul[aria-label="Who sees it"]', (list) => list.scrollIntoView({ block: 'center' }));
}

async function openMailbox(page) {
  await page.locator('[role=table][aria-label=Mailboxes] a ::-p-text(nadia.okonjira)').click();
  await page.waitForSelector('section[aria-label=Log] li time');
}

/** A refused password: what the list of checks says then. */
async function connectWrongly(page) {
  await page.type('input[name=address]', 'kenji.moorcrest@quillmere.example');
  await page.keyboard.press('Enter');
  await page.locator('input[name=signIn]:not(:checked)').click();
  await page.waitForSelector('input[name=password]');
  await page.type('input[name=password]', 'not this one');
  await page.keyboard.press('Enter');
  await page.waitForSelector('[role=alert]');
}

/** Opens an underlined part of a sentence and chooses what it says. */
async function choose(page, part, option) {
  await page.locator(`::-p-aria(${part})`).click();
  await page.locator(`[role=option] ::-p-text(${option})`).click();
}

async function writeRule(page) {
  await page.locator('button ::-p-text(Add a rule)').click();
  await choose(page, 'Add a condition', 'the subject …');
  await page.locator('input[aria-label^=Words]').fill('recalibration, yearly maintenance');
  await choose(page, 'What happens: take it in. Change', 'leave it to its owner');
  await page.locator('form[aria-label="New rule"] input[name=name]').fill('Service reminders');
  // All past mail has been counted.
  await page.waitForFunction(() => !document.body.innerText.includes('So far,') && document.body.innerText.includes('It would change'));
  await page.$eval('form[aria-label="New rule"]', (form) => void form.scrollIntoView({ block: 'end' }));
}

/** The newest trial that changes something. */
async function openTrial(page) {
  await page.waitForSelector('ul[aria-label=Trials] a');
  await page.locator('ul[aria-label=Trials] a').click();
  await page.waitForSelector('table');
}

async function openFirstRecord(page) {
  await page.waitForSelector('[role=grid] [role=row] a');
  await page.click('[role=grid] [role=row] a');
  await page.waitForSelector('article');
}

/** An email from a deal, to someone of another company, without the file that it mentions. */
async function writeEmail(page) {
  await page.waitForSelector('[role=grid] [role=row] a');
  await page.click('[role=grid] [role=row] a');
  await page.locator('button ::-p-text(Write email)').click();
  await page.waitForSelector('form [aria-label=Text]');
  for (let count = 1; count <= 2; count += 1) {
    await page.type('form input[aria-label=To]', 'a');
    await page.waitForSelector('form [role=option]');
    await page.keyboard.press('Enter');
    await page.waitForFunction(
      (many) => document.querySelectorAll('form button[aria-label^="Remove "][aria-label*="@"]').length >= many,
      {},
      count,
    );
  }
  await page.type('form input[id^=subject]', 'Visit next week');
  await page.type('form [aria-label=Text]', 'Good morning,\nthe plan of the station is attached. Shall we come on Tuesday?');
  await page.waitForFunction(() => document.body.innerText.includes('Draft saved') && document.body.innerText.includes('none is attached'));
}

async function main() {
  const { values, positionals } = parseArgs({
    options: {
      url: { type: 'string', default: 'http://127.0.0.1:4460' },
      size: { type: 'string', default: '1280x800' },
      out: { type: 'string', default: join(root, 'docs', 'screenshots') },
      user: { type: 'string', default: 'hedda.quillmere@quillmere.example' },
      dark: { type: 'boolean' },
      help: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (values.help) return process.stdout.write(HELP);
  const [width, height] = values.size.split('x').map(Number);
  mkdirSync(values.out, { recursive: true });
  const browser = await puppeteer.launch({
    executablePath: await ensureChromium(),
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
  try {
    const page = await browser.newPage();
    await page.setViewport({ width, height });
    if (values.dark) await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'dark' }]);
    await page.goto(values.url, { waitUntil: 'domcontentloaded' });
    const wanted = Object.entries(VIEWS).filter(([name, view]) => (positionals.length > 0 ? positionals.includes(name) : !view.skip));
    await page.waitForSelector('input[name=email]');
    if (wanted.some(([name]) => name === 'sign-in')) await page.screenshot({ path: join(values.out, 'sign-in.png') });
    await page.type('input[name=email]', values.user);
    await page.type('input[name=password]', 'tide-gauge-demo');
    await page.keyboard.press('Enter');
    await page.waitForSelector('#content h1');
    for (const [name, view] of wanted.filter(([, { anonymous }]) => !anonymous)) {
      await page.goto(values.url + view.path, { waitUntil: 'domcontentloaded' });
      await page.waitForSelector('#content h1');
      await settled(page);
      await view.act?.(page);
      await settled(page);
      await page.screenshot({ path: join(values.out, `${name}.png`) });
      process.stdout.write(`${name}\n`);
    }
  } finally {
    await browser.close();
  }
}

main().catch(fail);
