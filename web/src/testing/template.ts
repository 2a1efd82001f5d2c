import type { TemplateRow } from '@fulvet/contract';

/** A template that is published, with a subject. */
export const OFFER: TemplateRow = {
  id: 4,
  kind: 'template',
  name: 'Offer',
  folder: '',
  scope: 'own',
  team: null,
  language: '',
  shortcut: '',
  subject: 'Our offer',
  state: 'published',
  beginning: '',
  owner: 'Rep',
  isMine: true,
  isRemoved: false,
  changedAt: '2026-05-04T10:00:00Z',
};
