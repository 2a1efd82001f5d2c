import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { setUpCrew, startTestServer } from '../testing/testServer';
import fc from 'fast-check';
import { plainLines, quotedLines, readCsv } from '../base/files/readCsv';
import { readVcards } from './import/readVcards';

let server: TestServer;
let crew: Crew;
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
});
afterAll(() => server.remove());

const post = async (
  kind: string,
  text: string,
  more: Record<string, unknown> = {},
  route: 'importRecords' | 'previewRecords' = 'importRecords',
) => (await server.call(routeTo(route, { kind }), { token: crew.tokens.rep, body: { text, ...more } })).json;
const exported = async (kind: string, query: object = {}): Promise<string> =>
  (await server.call(routeTo('exportRecords', { kind, ...query }), { token: crew.tokens.rep })).text;

const ACCOUNTS =
  'name,domains,parent,type,owner\nOriel,oriel.example;harbour.example,Holding,customer,rep@quillmere.example\nHolding,,,,\n';
const CONTACTS =
  'name,emails,account,title,phone,owner\n"Brandt, Ida",ida@oriel.example;ida.b@harbour.example,oriel,Engineer,+99 1 22,REP@quillmere.example\n';

describe('import of records', () => {
  test('a preview says what would happen and changes nothing', async () => {
    expect(await post('account', ACCOUNTS, {}, 'previewRecords')).toMatchObject({
      counts: { create: 2, update: 0, same: 0, bad: 0 },
      done: false,
    });
    expect(await exported('account')).toBe('name,domains,parent,type,owner\n');
  });

  test('the same file twice updates and never doubles; the export is the file again', async () => {
    expect((await post('account', ACCOUNTS)).counts).toMatchObject({ create: 2 });
    expect((await post('account', ACCOUNTS)).counts).toMatchObject({ create: 0, same: 2 });
    expect((await post('contact', CONTACTS)).counts).toMatchObject({ create: 1 });
    expect((await post('contact', CONTACTS.replace('Engineer', 'Chief'))).counts).toMatchObject({ create: 0, update: 1 });
    expect(await exported('contact')).toBe(
      `name,emails,account,title,phone,owner\n"Brandt, Ida",ida@oriel.example;ida.b@harbour.example,Oriel,Chief,'+99 1 22,rep@quillmere.example\n`,
    );
    expect((await post('contact', await exported('contact'))).counts).toMatchObject({ same: 1, create: 0, update: 0, bad: 0 });
    expect((await post('account', await exported('account'))).counts).toMatchObject({ same: 2, create: 0 });
  });

  test('every bad line is named with its number and reason, and the others are taken', async () => {
    const text = [
      'name,emails,account,owner',
      ',x@a.example,,',
      'A,not an address,,',
      'B,b@a.example,No one Ltd,',
      'C,c@a.example,,ghost@quillmere.example',
      'D,d@quillmere.example,,',
      'E,e@a.example,,',
      'F,e@a.example,,',
      '"G","g@a.example","","",too,many',
    ].join('\n');
    const result = await post('contact', text);
    expect(result.bad.map((item: { line: number }) => item.line)).toEqual([2, 3, 4, 5, 6, 8, 9]);
    expect(result.bad.map((item: { reason: string }) => item.reason).join('\n')).toMatch(
      /name is missing[\s\S]*not an address[\s\S]*“No one Ltd” is not known[\s\S]*not on the team[\s\S]*one of ours[\s\S]*same contact as in line 7[\s\S]*columns/,
    );
    expect(result.counts).toMatchObject({ create: 1 });
  });

  test('deals read yes and no, amounts and dates in their many spellings', async () => {
    const text =
      'code,name,account,stage,open,amount,currency,people,closed_on\nD-1,One,Oriel,Quoted,true,"12,500.50",EUR,ida@oriel.example,\nD-2,Two,,Won,0,"1.250,75",EUR,,2026-02-01\nD-3,Three,,,maybe,1,,,\nD-4,Four,,,yes,lots,,,\nD-5,Five,,,no,1,,,31.12.2026\nD-6,Six,,,yes,1,,ghost@a.example,\n';
    const result = await post('deal', text);
    expect(result.bad.map((item: { line: number }) => item.line)).toEqual([4, 5, 6, 7]);
    expect(await exported('deal')).toBe(
      'code,name,account,owner,stage,open,amount,currency,people,closed_on,opened_on\nD-1,One,Oriel,,Quoted,yes,12500.5,EUR,ida@oriel.example,,\nD-2,Two,,,Won,no,1250.75,EUR,,2026-02-01,\n',
    );
  });

  test('columns are mapped by hand, and a file without a name column says so', async () => {
    const text = 'Firma;Seiten\nKestrel;kestrel.example\n';
    expect((await post('account', text, {}, 'previewRecords')).bad[0]).toMatchObject({ line: 1 });
    expect((await post('account', text, { mapping: { Firma: 'name', Seiten: 'domains' } })).counts).toMatchObject({ create: 1 });
    const refused = await server.call(routeTo('importRecords', { kind: 'account' }), { token: crew.tokens.rep, body: { text } });
    expect(refused.status).toBe(422);
  });

  test('a provider or an own domain cannot be a company’s', async () => {
    const result = await post('account', 'name,domains\nP,gmail.com\nQ,quillmere.example\n');
    expect(result.counts).toMatchObject({ create: 0, bad: 2 });
  });

  test('leads, and contacts from vCard 3 and 4', async () => {
    expect((await post('lead', 'name,emails,company,status\nLea Ost,lea@dredge.example,Dredge,new\n')).counts.create).toBe(1);
    const cards =
      'BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Vera Three\r\nN:Three;Vera;;;\r\nEMAIL;TYPE=INTERNET:vera@three.example\r\nTEL;TYPE=WORK:+99 3\r\nEND:VCARD\r\nBEGIN:VCARD\r\nVERSION:4.0\r\nFN:Finn Four\r\nEMAIL:finn@four.example\r\nORG:Oriel\r\nTITLE:Pilot\r\nEND:VCARD\r\nBEGIN:VCARD\r\nVERSION:4.0\r\n';
    const result = await post('contact', cards, { format: 'vcard' });
    expect(result).toMatchObject({ counts: { create: 2, bad: 1 } });
    const vcards = await exported('contact', { format: 'vcard' });
    expect(vcards).toMatch(/FN:Finn Four[\s\S]*ORG:Oriel/);
    expect(readVcards(vcards).rows.map((row) => row.values.name)).toContain('Vera Three');
  });

  test('an export runs no formula in a spreadsheet, and comes back as it was', async () => {
    await post('account', 'name,type\n"=HYPERLINK(""http://x"")",@sum\n');
    const csv = await exported('account');
    expect(csv).toContain(`'=HYPERLINK`);
    expect(csv).toContain(`'@sum`);
    expect((await post('account', csv)).counts).toMatchObject({ create: 0, update: 0 });
  });
});

describe('readCsv', () => {
  test('a table without quotes is read as the library reads it', () => {
    const pieces = fc.constantFrom('a', 'Ida B', ' ', ';', ',', '\t', '\n', '\n', "'", '=x', 'é', '');
    fc.assert(
      fc.property(fc.array(pieces), fc.constantFrom(',', ';', '\t'), fc.constantFrom('\n', '\r\n'), (parts, delimiter, end) => {
        // Where a line is all spaces and delimiters that count as spaces, there is nothing to compare.
        const text = `head${delimiter}er\n${parts.join('')}`.replace(/\n/g, end);
        if (delimiter === '\t' && /(?:^|\n)[ \t]*\r?(?:\n|$)/.test(text)) return;
        expect(plainLines(text, delimiter)).toEqual(quotedLines(text, delimiter));
      }),
      { numRuns: 2_000 },
    );
  });

  test('a file whose lines lack most of the columns is refused at once', () => {
    const answer = readCsv(`name${',x'.repeat(500)}\n${'a\n'.repeat(3_000)}`);
    expect(answer).toMatchObject({ rows: [], bad: [{ line: 1, reason: expect.stringContaining('Is it the line of the headers?') }] });
  });

  test('a file with more columns than any table has is refused at once', () => {
    const answer = readCsv(`name${','.repeat(1_000)}\n${'a\n'.repeat(10)}`);
    expect(answer).toMatchObject({ rows: [], bad: [{ line: 1, reason: expect.stringContaining('1001 columns; at most 1000') }] });
  });

  test.each([
    ['a BOM and semicolons', '\ufeffname;emails\nIda;a@x\n'],
    ['tabs and CRLF', 'name\temails\r\nIda\ta@x\r\n'],
    ['empty lines', 'name,emails\n\nIda,a@x\n\n'],
  ])('reads %s', (_, text) => {
    expect(readCsv(text)).toMatchObject({ headers: ['name', 'emails'], rows: [{ values: { name: 'Ida', emails: 'a@x' } }], bad: [] });
  });

  test('an empty file is an error that says what is missing', () => {
    expect(readCsv('').bad[0]?.reason).toContain('first line must name the columns');
  });

  test('line numbers are those of the file', () => {
    expect(readCsv('name\n"two\nlines"\nlast\n').rows.map((row) => row.line)).toEqual([3, 4]);
  });
});
