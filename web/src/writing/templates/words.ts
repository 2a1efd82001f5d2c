import { counted } from '../../parts/numbers';

/** The texts of these screens, by the file that shows them. Places in braces are filled by `filled`. */

export const templatesPage = {
  title: 'Templates',
  purpose: 'Texts that you put into emails, with fields that are filled for the recipient.',
  find: 'Find a template',
  newItem: 'New template',
  noneYet: 'No template yet',
  howToBegin: 'Write one here, or keep a draft as a template in the tray where you write it.',
  nothingFound: 'Nothing found. Try fewer words.',
  choose: 'Choose a template, or write a new one.',
  noGroup: 'Without a folder',
  all: 'All templates',
} as const;

export const kinds = { template: 'Template', block: 'Text block', article: 'Article' } as const;

export const kindsMany = { template: 'Templates', block: 'Text blocks', article: 'Articles' } as const;

export const kindHints = {
  template: 'A whole email with its subject.',
  block: 'A short passage. Type a semicolon, its shortcut and a space.',
  article: 'Someone keeps it up to date. What fits an email is offered first.',
} as const;

export const states = { draft: 'Draft', published: 'Published', outdated: 'Outdated' } as const;

export const templateFile = {
  saveAsEmail: 'Save as .eml',
  fromEmailFile: 'Take it from an email (.eml) …',
  reading: 'Reading …',
} as const;

export const templateEditor = {
  kind: 'Kind',
  name: 'Name',
  folder: 'Folder',
  language: 'Language',
  languageHint: 'Such as de or en-GB; empty for any. Dates are written in it.',
  shortcut: 'Shortcut',
  state: 'State',
  onlyPublished: 'Only what is published is found in emails.',
  subject: 'Subject',
  text: 'Text',
  documents: 'Documents that go along',
  noDocuments: 'none',
  fieldsHint: 'A field without a value stops the email. Give it a fallback after a bar: {{person.firstName|there}}.',
  save: 'Save template',
  saved: (name: string) => `${name} is saved.`,
  remove: 'Remove template',
  removed: (name: string) => `${name} is removed.`,
  restored: (name: string) => `${name} is back.`,
  undo: 'Undo',
  ofSomeoneElse: (owner: string) => `${owner} keeps this template. What you change here is kept as a copy of your own.`,
  copy: 'Keep a copy of my own',
  tryItFor: 'See it for a record',
  chosen: (name: string) => `For ${name}`,
  emptyFields: 'Without a value: {fields}',
  howItDid: 'How it did',
  figures: (used: number, answered: number, hours: number | null) =>
    `Used ${counted(used, 'time')}, answered ${counted(answered, 'time')}${hours === null ? '' : `, the middle answer after ${hours < 48 ? `${Math.max(1, Math.round(hours))} h` : counted(Math.round(hours / 24), 'day')}`}.`,
  newestEmails: 'Newest emails with it',
} as const;

export const insertText = {
  insertText: 'Insert text …',
  title: 'Insert a template, text block or article',
  find: 'Name, folder or words',
  nothing: 'Nothing found. Keep texts under Templates.',
  keepAsTemplate: 'Keep as template',
  replaceSubject: 'Replace subject',
  subjectIs: (subject: string) => `The template has the subject “${subject}”.`,
  notInForce: (titles: string) => `Not attached, since no version is in force: ${titles}.`,
  fill: (fields: string) => `Fill these fields before you send: ${fields}.`,
} as const;
