import type { Filing, RecordKind } from '@fulvet/core';

/** The records of the filings that stand, as `kind:id`, from the same text as {@link filedUnder}. */
export function recordsFiledUnder(text: string): string[] {
  if (text === '') return [];
  return text.split(',').map((part) => part.slice(0, part.indexOf(':', part.indexOf(':') + 1)));
}

/** The filings that stand, from the one text in which they are loaded: `kind:id:rule`, separated by commas. */
export function filedUnder(text: string): Filing[] {
  if (text === '') return [];
  return text.split(',').map((part) => {
    const [kind, id, ...rule] = part.split(':');
    return { kind: kind as RecordKind, id: Number(id), rule: rule.join(':') };
  });
}
