/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { DocumentDetail, DocumentLink } from '@fulvet/contract';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import { openPage, Refused } from '../../testing/openPage';

const version = (number: number, isWithdrawn = false): DocumentDetail['versions'][number] => ({
  number,
  name: `prices ${number}.pdf`,
  type: 'application/pdf',
  size: 2048,
  addedBy: 'Rep',
  addedAt: '2026-05-04T10:00:00Z',
  isWithdrawn,
});
const make = (id: number, title: string, more: Partial<DocumentDetail> = {}): DocumentDetail => {
  const versions = more.versions ?? [version(1)];
  return {
    ...like(routes.getDocument.response, { id, title, scope: 'own' }),
    owner: 'Rep',
    isMine: true,
    isOver: false,
    isRemoved: false,
    topic: '',
    language: '',
    team: null,
    validUntil: null,
    changedAt: '2026-05-04T10:00:00Z',
    revision: 1,
    ...more,
    versions,
    current: versions.find(({ isWithdrawn }) => !isWithdrawn) ?? null,
  };
};

let kept: DocumentDetail[];
let sent: DocumentLink[];
beforeEach(() => {
  kept = [
    make(1, 'Price list', { topic: 'Prices', versions: [version(2), version(1)] }),
    make(2, 'Terms', { isMine: false, owner: 'Manager', scope: 'all', topic: 'Terms' }),
  ];
  sent = [
    {
      id: 5,
      version: 1,
      recipients: [{ name: 'Ida Brandt', address: 'ida@harbour.example' }],
      createdAt: '2026-05-04T10:00:00Z',
      endsAt: '2026-08-04T10:00:00Z',
      isOpen: true,
      isWithdrawn: false,
    },
  ];
});
const change = (id: number, more: (document: DocumentDetail) => Partial<DocumentDetail>): DocumentDetail => {
  kept = kept.map((document) => (document.id === id ? make(id, document.title, { ...document, ...more(document) }) : document));
  return kept.find((document) => document.id === id) as DocumentDetail;
};

const open = (path = '/documents', role: 'rep' | 'admin' = 'rep') =>
  openPage(path, {
    ...workspace(role),
    listDocuments: ({ query }) => ({
      documents: kept.filter(({ isRemoved, title }) => !isRemoved && title.toLowerCase().includes(String(query.text ?? '').toLowerCase())),
      linkAddress: null,
    }),
    getDocument: ({ params }) =>
      kept.find(({ id }) => id === Number(params.id)) ?? new Refused(404, 'not-found', 'There is no such document.'),
    listDocumentLinks: () => ({ links: sent }),
    saveDocument: ({ params, body }) => change(Number(params.id), ({ revision }) => ({ ...(body as object), revision: revision + 1 })),
    createDocument: ({ body }) => {
      const made = make(3, '', { ...(body as object), versions: [] });
      kept = [...kept, made];
      return made;
    },
    addDocumentVersion: ({ params }) =>
      change(Number(params.id), ({ versions }) => ({ versions: [version(versions.length + 1), ...versions] })),
    withdrawDocumentVersion: ({ params, body }) =>
      change(Number(params.id), ({ versions }) => ({
        versions: versions.map((item) =>
          item.number === Number(params.number) ? { ...item, isWithdrawn: (body as { withdrawn: boolean }).withdrawn } : item,
        ),
      })),
    withdrawDocumentLink: ({ body }) => {
      const { withdrawn } = body as { withdrawn: boolean };
      sent = sent.map((link) => ({ ...link, isWithdrawn: withdrawn, isOpen: !withdrawn }));
      return sent[0] as DocumentLink;
    },
    removeDocument: ({ params }) => change(Number(params.id), () => ({ isRemoved: true })),
    restoreDocument: ({ params }) => change(Number(params.id), () => ({ isRemoved: false })),
  });

describe('the documents', () => {
  test('stand by topic with the version in force; one that is withdrawn gives way to the one before, and can be undone', async () => {
    const page = open();
    await screen.findByRole('heading', { name: 'Prices' });
    await page.user.click(screen.getByRole('button', { name: /^Price list/ }));
    const versions = await screen.findByRole('region', { name: 'Versions' });
    const inForce = (): string => within(versions).getByText('in force').closest('li')?.textContent ?? '';
    expect(inForce()).toContain('Version 2');
    await page.user.click(within(versions).getByRole('button', { name: 'Withdraw version 2' }));
    await waitFor(() => expect(inForce()).toContain('Version 1'));
    await page.user.click(await screen.findByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(inForce()).toContain('Version 2'));
  });

  test('of someone else are sent, and not changed', async () => {
    open('/documents?document=2');
    expect(await screen.findByText('Manager keeps this document. You can send it.')).toBeTruthy();
    const versions = await screen.findByRole('region', { name: 'Versions' });
    expect(within(versions).queryByRole('button')).toBeNull();
    expect(within(versions).getByRole('link', { name: 'Download prices 1.pdf' }).getAttribute('href')).toBe(
      '/api/v1/documents/2/versions/1/file',
    );
  });

  test('are added with their file, which is asked for', async () => {
    const page = open('/documents?document=new');
    const add = await screen.findByRole('button', { name: 'Add document' });
    expect((add as HTMLButtonElement).disabled).toBe(true);
    await page.user.upload(screen.getByLabelText('Choose the file'), new File(['x'], 'sheet.pdf', { type: 'application/pdf' }));
    await page.user.click(add);
    expect(await screen.findByText(/missing/)).toBeTruthy();
    expect(page.calls('createDocument')).toEqual([]);
    await page.user.type(screen.getByRole('textbox', { name: 'Title' }), 'Data sheet');
    await page.user.click(add);
    await screen.findByText('Data sheet is saved.');
    expect(page.calls('addDocumentVersion')).toHaveLength(1);
    expect(await screen.findByText('Version 1')).toBeTruthy();
    // Reps share nothing.
    expect(screen.queryByText('Who finds it')).toBeNull();
  });

  test('show whom links went to; a link is withdrawn and allowed again', async () => {
    const page = open('/documents?document=1');
    const links = await screen.findByRole('region', { name: 'Links that you sent' });
    await page.user.click(await within(links).findByRole('button', { name: 'Withdraw the link for Ida Brandt' }));
    await within(links).findByText('withdrawn');
    await page.user.click(within(links).getByRole('button', { name: 'Allow again: the link for Ida Brandt' }));
    await within(links).findByText('answers');
  });

  test('are removed and restored; with none, it is said how to begin', async () => {
    kept = kept.slice(0, 1);
    const page = open('/documents?document=1');
    await page.user.click(await screen.findByRole('button', { name: 'Remove document' }));
    expect(await screen.findByText('No document yet')).toBeTruthy();
    await page.user.click(await screen.findByRole('button', { name: 'Undo' }));
    expect(await screen.findByRole('button', { name: /^Price list/ })).toBeTruthy();
  });
});
