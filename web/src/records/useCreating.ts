import type { RecordKind } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';
import type { PickedRecord } from '../parts/RecordPicker';
import { useUndo } from '../parts/useUndo';
import { creating as words } from './words';
import { whatIsTyped } from './whatIsTyped';

type Values = Record<string, string>;

/** What a record begins with, of what was typed; null where such a text makes no record of the kind. */
function valuesOf(kind: RecordKind, text: string): Values | null {
  const { is, name, value } = whatIsTyped(text);
  if (is === 'name') return { name };
  if (is === 'address') return kind === 'contact' ? { name, emails: value } : null;
  return kind === 'account' ? { name, domains: value } : null;
}

/**
 * Creates records of a kind from what is typed where one is looked for, and says so with a way to take it back.
 *
 * @param onCreated what is done with it; it fails as a whole where this does
 */
export function useCreating(kind: RecordKind, onCreated: (record: PickedRecord) => Promise<unknown> | undefined, more: Values = {}) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const create = useMutation({
    mutationFn: async (values: Values) => {
      const account = more.account ?? (await accountOf(values.emails));
      const made = await call('createRecord', { kind, body: { values: { ...more, ...(account ? { account } : {}), ...values } } });
      await onCreated({ kind, id: made.id, name: values.name ?? '' });
      return { ...made, name: values.name ?? '' };
    },
    onSuccess: async (made) => {
      await refresh();
      notice(words.created(made.name), undo(made.undo));
    },
    onError: (error) => notice(error.message),
  });
  return (text: string): readonly { label: string; choose: () => void }[] => {
    const values = valuesOf(kind, text);
    return values
      ? [{ label: words.create(kind, values.emails ?? values.domains ?? values.name ?? ''), choose: () => create.mutate(values) }]
      : [];
  };
}

/** The account whose domain an address is at, where one alone has it. */
async function accountOf(address: string | undefined): Promise<string | null> {
  const domain = address?.split('@')[1];
  if (!domain) return null;
  const { records } = await call('listRecords', { kind: 'account', text: domain });
  const [only, ...others] = records.filter((record) => record.addresses.includes(domain));
  return only && others.length === 0 ? only.name : null;
}
