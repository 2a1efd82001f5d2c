/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { Template, TemplateContent } from '@fulvet/contract';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import { openPage, Refused } from '../../testing/openPage';

const make = (id: number, name: string, more: Partial<Template> = {}): Template => ({
  ...like(routes.getTemplate.response, { id, name, kind: 'template', scope: 'own', state: 'published' }),
  changedAt: '2026-05-04T10:00:00Z',
  owner: 'Rep',
  isMine: true,
  isRemoved: false,
  language: '',
  shortcut: '',
  folder: '',
  html: '<p>Dear {{person.firstName}}</p>',
  revision: 2,
  ...more,
});

let kept: Template[];
beforeEach(() => {
  kept = [
    make(1, 'Offer', { folder: 'Offers', subject: 'Our offer' }),
    make(2, 'Terms', { kind: 'block', shortcut: 'terms', isMine: false, owner: 'Manager', scope: 'all' }),
  ];
});

const open = (path = '/templates') =>
  openPage(path, {
    ...workspace('rep'),
    listTemplates: () => ({ templates: kept.filter(({ isRemoved }) => !isRemoved) }),
    listMergeFields: { fields: [{ key: 'account.name', label: 'Account: name' }] },
    listTemplateFigures: { figures: [{ templateId: 1, used: 4, answered: 3, medianHours: 5.2, emails: [9] }] },
    getTemplate: ({ params }) =>
      kept.find(({ id }) => id === Number(params.id)) ?? new Refused(404, 'not-found', 'There is no such template.'),
    saveTemplate: ({ params, body }) => {
      const { revision, teamId: _, ...content } = body as TemplateContent & { revision: number };
      kept = kept.map((item) => (item.id === Number(params.id) ? ({ ...item, ...content, revision: revision + 1 } as Template) : item));
      return kept.find(({ id }) => id === Number(params.id)) as Template;
    },
    createTemplate: ({ body }) => {
      const { teamId: _, ...content } = body as TemplateContent;
      kept = [...kept, make(3, content.name, content as Partial<Template>)];
      return kept[2] as Template;
    },
    removeTemplate: ({ params }) =>
      (kept = kept.map((item) => ({ ...item, isRemoved: item.isRemoved || item.id === Number(params.id) })))[0] as Template,
    restoreTemplate: () => (kept = kept.map((item) => ({ ...item, isRemoved: false })))[0] as Template,
  });

describe('the templates', () => {
  test('stand in their folders, are changed with a field, and say how they did', async () => {
    const page = open();
    await screen.findByRole('heading', { name: 'Offers' });
    await page.user.click(screen.getByRole('button', { name: /^Offer/ }));
    const subject = await screen.findByRole('textbox', { name: 'Subject' });
    await screen.findByText('Used 4 times, answered 3 times, the middle answer after 5 h.');
    await page.user.type(subject, ' for ');
    await page.user.click(screen.getByRole('combobox', { name: 'Insert a field' }));
    await page.user.click(await screen.findByRole('option', { name: 'Account: name' }));
    await page.user.click(screen.getByRole('button', { name: 'Save template' }));
    await screen.findByText('Offer is saved.');
    const body = page.calls('saveTemplate')[0]?.body as TemplateContent;
    expect(body).toMatchObject({ subject: 'Our offer for ', revision: 2, scope: 'own', teamId: null });
    expect(body.html).toContain('{{account.name}}');
    expect(body.html).toContain('{{person.firstName}}');
  });

  test('a new one says what it lacks before it is sent; a rep is offered no sharing', async () => {
    const page = open('/templates?template=new');
    await page.user.click(await screen.findByRole('button', { name: 'Save template' }));
    await screen.findByText(/is missing/);
    expect(page.calls('createTemplate')).toEqual([]);
    expect(screen.queryByRole('combobox', { name: 'Who finds it' })).toBeNull();
    await page.user.type(screen.getByRole('textbox', { name: 'Name' }), 'Thanks');
    await page.user.click(screen.getByRole('button', { name: 'Save template' }));
    await screen.findByText('Thanks is saved.');
  });

  test('one of someone else is used, not changed: a copy of it is kept', async () => {
    const page = open('/templates?template=2');
    await screen.findByText('Manager keeps this template. What you change here is kept as a copy of your own.');
    expect(screen.queryByRole('button', { name: 'Remove template' })).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Keep a copy of my own' }));
    await screen.findByText('Terms is saved.');
    await page.user.click(screen.getByRole('button', { name: 'All templates' }));
    await waitFor(() => expect(page.address()).toBe('/templates'));
    expect(page.calls('createTemplate')[0]?.body).toMatchObject({ kind: 'block', name: 'Terms', shortcut: 'terms', scope: 'own' });
  });

  test('one that is removed comes back by the notice', async () => {
    const page = open('/templates?template=1');
    await page.user.click(await screen.findByRole('button', { name: 'Remove template' }));
    await screen.findByText('Offer is removed.');
    const list = within(screen.getByRole('region', { name: 'Templates' }));
    expect(list.queryByText('Offer')).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await list.findByText('Offer');
  });
});
