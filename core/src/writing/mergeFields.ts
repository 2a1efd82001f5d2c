/** A field in a text: `{{person.firstName}}`, or with what stands there where it is empty, `{{person.firstName|there}}`. */
const FIELD = /\{\{\s*([a-z][\w.]*)\s*(?:\|([^{}]*))?\}\}/gi;

/** What fields stand for: a value for each key in lower case; an empty one is empty. */
export type FieldValues = ReadonlyMap<string, string>;

/** A text in which fields were filled. */
export interface Filled {
  text: string;
  /** Keys of fields without a value and without a fallback, each once, as they are written; they stand in the text as they were. */
  empty: string[];
}

/**
 * Fills the fields of a text.
 *
 * @param escaped makes a value safe for the kind of text, such as HTML
 */
export function fillFields(text: string, values: FieldValues, escaped: (value: string) => string = (value) => value): Filled {
  const empty = new Set<string>();
  const filled = text.replace(FIELD, (field: string, key: string, fallback: string | undefined) => {
    const value = values.get(key.toLowerCase());
    if (value !== undefined && value !== '') return escaped(value);
    // The text is of its own kind already, and so is what stands in it.
    if (fallback !== undefined) return fallback.trim();
    empty.add(key);
    return field;
  });
  return { text: filled, empty: [...empty] };
}

/** Keys of the fields that stand in a text, each once, in their order. */
export const fieldsIn = (text: string): string[] => [...new Set([...text.matchAll(FIELD)].map(([, key = '']) => key))];

/** Values that equal fields, as fields: how a text that was written for someone becomes a template. Short values, which stand in other words, stay. */
export function fieldsFor(text: string, values: FieldValues, escaped: (value: string) => string = (value) => value): string {
  const known = [...values]
    .map(([key, value]) => ({ key, value: escaped(value.trim()) }))
    .filter(({ value }) => value.length >= SHORTEST_VALUE)
    .sort((first, second) => second.value.length - first.value.length);
  if (known.length === 0) return text;
  const keys = new Map<string, string>();
  for (const { key, value } of known) if (!keys.has(value)) keys.set(value, key);
  const any = [...keys.keys()].map((value) => value.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')).join('|');
  // Whole words, outside tags.
  return text.replace(new RegExp(`<[^>]*>|(?<![\\p{L}\\p{N}])(?:${any})(?![\\p{L}\\p{N}])`, 'gu'), (found) => {
    const key = keys.get(found);
    return key === undefined ? found : `{{${key}}}`;
  });
}

const SHORTEST_VALUE = 3;
