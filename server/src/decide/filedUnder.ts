import type { Filing, RecordKind } from '@fulvet/core';

/** The filings that stand, from the one text in which they are loaded: `kind:id:rule`, separated by commas. */
export function filedUnder(text: string): Filing[] {
  if (text === '') return [];
  return text.split(',').map((one) => {
    const [kind, id, ...rule] = one.split(':');
    return { kind: kind as RecordKind, id: Number(id), rule: rule.join(':') };
  });
}
