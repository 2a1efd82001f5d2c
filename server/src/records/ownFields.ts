import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { notFound, Refusal } from '../base/refusal';
import type { OwnField, RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { RECORD_FIELDS } from './fields';
import { keyOf } from './keyOf';
import { tableOf } from './kinds';
import { ownKinds } from './own/ownKinds';

const ownFieldRow = z.object({
  key: z.string(),
  label: z.string(),
  type: z.enum(['number', 'date', 'text', 'choice', 'yesNo']),
  choices: z.array(z.string()),
  of: z.string().nullable(),
});

/** The own fields of a kind, in order. @param of key of a kind that the workspace defines: only those of its records */
export async function ownFields(tx: Tx, kind: RecordKind, of?: string): Promise<OwnField[]> {
  const rows = await rowsOf(
    tx,
    ownFieldRow,
    sql`SELECT f.key, f.label, f.type, f.choices, k.key AS of FROM own_fields f LEFT JOIN own_kinds k ON k.id = f.own_kind_id
      WHERE f.record_kind = ${kind} AND (${of ?? null}::text IS NULL OR k.key = ${of ?? null}) ORDER BY k.position, f.position, f.id`,
  );
  return rows.map(({ of: kindKey, ...field }) => (kindKey === null ? field : { ...field, of: kindKey }));
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
  { kind, of }: { kind: RecordKind; of?: string | undefined },
  wanted: readonly (Omit<OwnField, 'key'> & { key?: string | undefined })[],
): Promise<Refusal | null> {
  const ownKind = kind === 'own' ? (await ownKinds(tx)).find(({ key }) => key === of) : null;
  if (ownKind === undefined) return notFound('kind of records');
  const all = await ownFields(tx, kind);
  const known = ownKind ? all.filter((field) => field.of === ownKind.key) : all;
  // Keys tell the fields of all own kinds apart.
  const taken = new Set([
    ...RECORD_FIELDS[kind].map((field) => field.name),
    ...all.filter((it) => !known.includes(it)).map(({ key }) => key),
  ]);
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
  const table = tableOf(kind);
  const kindId = ownKind?.id ?? null;
  for (const field of known) {
    const next = fields.find((item) => item.key === field.key);
    if (next && next.type === field.type && next.type !== 'choice') continue;
    const rows = await rowsOf(tx, ownValueRow, sql`SELECT t.id, t.own -> ${field.key} AS value FROM ${table} t WHERE t.own ? ${field.key}`);
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
    sql`DELETE FROM own_fields WHERE record_kind = ${kind} AND own_kind_id IS NOT DISTINCT FROM ${kindId}::bigint AND key <> ALL(${sql.param(fields.map((field) => field.key))}::text[])`,
  );
  await tx.execute(sql`INSERT INTO own_fields (record_kind, own_kind_id, key, label, type, choices, position)
    SELECT ${kind}, ${kindId}::bigint, f.key, f.label, f.type, ARRAY(SELECT json_array_elements_text(f.choices)), f.position FROM json_to_recordset(${JSON.stringify(fields.map((field, position) => ({ ...field, position })))}::json) AS f(key text, label text, type text, choices json, position int)
    ON CONFLICT (record_kind, key) DO UPDATE SET label = excluded.label, type = excluded.type, choices = excluded.choices, position = excluded.position`);
  return null;
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
