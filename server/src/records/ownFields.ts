import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal } from '../base/refusal';
import type { OwnField, RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { RECORD_FIELDS } from './fields';

const ownFieldRow = z.object({
  key: z.string(),
  label: z.string(),
  type: z.enum(['number', 'date', 'text', 'choice', 'yesNo']),
  choices: z.array(z.string()),
});

/** The own fields of a kind, in order. */
export async function ownFields(tx: Tx, kind: RecordKind): Promise<OwnField[]> {
  const rows = await rowsOf(
    tx,
    ownFieldRow,
    sql`SELECT key, label, type, choices FROM own_fields WHERE record_kind = ${kind} ORDER BY position, id`,
  );
  return rows.map(({ key, label, type, choices }) => ({ key, label, type, choices }));
}

/** Values as text: `yes`, `12.5`, `2026-05-04`. */
export function ownTexts(own: Record<string, unknown>): Record<string, string> {
  return Object.fromEntries(Object.entries(own).map(([key, value]) => [key, ownText(value)]));
}

function ownText(value: unknown): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'string' || typeof value === 'number' ? String(value) : '';
}

/** The value that a text stands for in a field, null for an empty one; or why it cannot be read. */
export function readOwnValue(field: OwnField, text: string): { value: string | number | boolean | null } | { wrong: string } {
  const written = text.trim();
  if (written === '') return { value: null };
  switch (field.type) {
    case 'text':
      return written.length > 2000 ? { wrong: `${field.label} is longer than 2000 characters.` } : { value: written };
    case 'number': {
      const number = Number(written.replace(/[\s']/g, '').replace(/^([^.]*),(\d+)$/, '$1.$2'));
      return Number.isFinite(number) ? { value: number } : { wrong: `“${written}” is not a number for ${field.label}.` };
    }
    case 'date':
      return /^\d{4}-\d{2}-\d{2}$/.test(written) && !Number.isNaN(Date.parse(written))
        ? { value: written }
        : { wrong: `“${written}” is not a date such as 2026-05-04 for ${field.label}.` };
    case 'choice': {
      const found = field.choices.find((choice) => choice.toLowerCase() === written.toLowerCase());
      return found === undefined
        ? { wrong: `“${written}” is none of the choices of ${field.label}: ${field.choices.join(', ')}.` }
        : { value: found };
    }
    case 'yesNo':
      if (/^(?:yes|y|true|1)$/i.test(written)) return { value: true };
      return /^(?:no|n|false|0)$/i.test(written) ? { value: false } : { wrong: `“${written}” is not yes or no for ${field.label}.` };
  }
}

const ownValueRow = z.object({ id: z.number(), value: z.unknown() });

/** Sets the own fields of a kind: those that are gone lose their values, those whose type changes keep the values that can be read as it. */
export async function setOwnFields(
  tx: Tx,
  kind: RecordKind,
  wanted: readonly (Omit<OwnField, 'key'> & { key?: string | undefined })[],
): Promise<Refusal | null> {
  const known = await ownFields(tx, kind);
  const taken = new Set(RECORD_FIELDS[kind].map((field) => field.name));
  const fields = wanted.map((item): OwnField => {
    const key = item.key !== undefined && known.some((it) => it.key === item.key) ? item.key : keyOf(item.label, taken);
    taken.add(key);
    return { ...item, key };
  });
  const labels = fields.map((field) => field.label.toLowerCase());
  const twice = labels.find((label, at) => labels.indexOf(label) !== at);
  if (twice !== undefined)
    return new Refusal('unfit', 'bad-input', `Two fields are called “${twice}”. Give each its own name.`, { fields: 'has a name twice' });
  const empty = fields.find((field) => field.type === 'choice' && field.choices.length === 0);
  if (empty)
    return new Refusal('unfit', 'bad-input', `“${empty.label}” has nothing to choose from. Add at least one choice.`, {
      choices: 'is empty',
    });
  const table = sql.identifier(`${kind}s`);
  for (const field of known) {
    const next = fields.find((item) => item.key === field.key);
    if (next && next.type === field.type && next.type !== 'choice') continue;
    const rows = await rowsOf(tx, ownValueRow, sql`SELECT id, own -> ${field.key} AS value FROM ${table} WHERE own ? ${field.key}`);
    for (const row of rows) {
      const read = next ? readOwnValue(next, ownText(row.value)) : { wrong: '' };
      if ('value' in read && read.value !== null)
        await tx.execute(
          sql`UPDATE ${table} SET own = own || jsonb_build_object(${field.key}::text, ${JSON.stringify(read.value)}::jsonb) WHERE id = ${row.id}`,
        );
      else await tx.execute(sql`UPDATE ${table} SET own = own - ${field.key} WHERE id = ${row.id}`);
    }
  }
  await tx.execute(
    sql`DELETE FROM own_fields WHERE record_kind = ${kind} AND key <> ALL(${sql.param(fields.map((field) => field.key))}::text[])`,
  );
  await tx.execute(sql`INSERT INTO own_fields (record_kind, key, label, type, choices, position)
    SELECT ${kind}, f.key, f.label, f.type, ARRAY(SELECT json_array_elements_text(f.choices)), f.position FROM json_to_recordset(${JSON.stringify(fields.map((field, position) => ({ ...field, position })))}::json) AS f(key text, label text, type text, choices json, position int)
    ON CONFLICT (record_kind, key) DO UPDATE SET label = excluded.label, type = excluded.type, choices = excluded.choices, position = excluded.position`);
  return null;
}

function keyOf(label: string, taken: ReadonlySet<string>): string {
  const plain =
    label
      .normalize('NFKD')
      .toLowerCase()
      .replace(/\p{M}/gu, '')
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
      .slice(0, 40) || 'field';
  for (let n = 1; ; n += 1) {
    const key = n === 1 ? plain : `${plain}_${n}`;
    if (!taken.has(key)) return key;
  }
}

/** Puts the values of own fields into their one form in place; returns the reason where one cannot be read. */
export function normaliseOwn(own: readonly OwnField[], values: Record<string, string>): string | null {
  for (const field of own) {
    const text = values[field.key];
    if (text === undefined) continue;
    const read = readOwnValue(field, text);
    if ('wrong' in read) return read.wrong;
    values[field.key] = read.value === null ? '' : (ownTexts({ value: read.value }).value ?? '');
  }
  return null;
}
