import type { DuplicatePair, Merge } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked } from '../api/asked';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Empty, Page, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { Form } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { KIND_LABELS, recordPath } from '../parts/people';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { duplicatesPage as texts } from './words';

type Kind = DuplicatePair['kind'];
const KINDS: Kind[] = ['account', 'contact', 'lead'];

/** Records that are likely one, side by side; merged field by field, parted again exactly. */
export default function DuplicatesPage() {
  const params = useParams();
  const kind: Kind = KINDS.find((value) => value === params.kind) ?? 'contact';
  const found = useQuery(asked('listDuplicates', { kind }));
  const [settled, setSettled] = useState<ReadonlySet<string>>(new Set());
  const pairs = (found.data?.pairs ?? []).filter((pair) => !settled.has(keyOf(pair)));
  const settle = (pair: DuplicatePair): void => setSettled((all) => new Set([...all, keyOf(pair)]));
  return (
    <Page
      purpose={texts.recordsThatMayBe}
      title={texts.duplicates}
      wide
      aside={
        <span className="flex gap-1">
          {KINDS.map((value) => (
            <Link
              key={value}
              to={`/duplicates/${value}`}
              aria-current={value === kind ? 'page' : undefined}
              className={clsx(
                'rounded px-2.5 py-1',
                value === kind ? 'bg-raised font-semibold shadow-[inset_0_-2px_0_var(--spruce)]' : 'text-muted hover:bg-sunk',
              )}
            >
              {KIND_LABELS[value].many}
            </Link>
          ))}
        </span>
      }
    >
      {found.isPending && <Waiting what={texts.comparingRecords} />}
      <Trouble error={found.error} />
      {found.data && (
        <p className="mb-3 text-muted" role="status">
          {found.data.total === 0
            ? texts.compared(counted(found.data.compared, KIND_LABELS[kind].one.toLowerCase(), KIND_LABELS[kind].many.toLowerCase()))
            : texts.pairOfMayBe(found.data.total - settled.size, found.data.compared, KIND_LABELS[kind].many.toLowerCase())}
        </p>
      )}
      {found.data && pairs.length === 0 && <Empty title={texts.noDuplicatesFound}>{texts.namesAddressesDomainsAnd}</Empty>}
      <ul className="space-y-4">
        {pairs.map((pair) => (
          <Pair
            key={keyOf(pair)}
            pair={pair}
            labels={found.data?.labels ?? {}}
            onSettled={() => settle(pair)}
            onParted={() => void found.refetch().then(() => setSettled(new Set()))}
          />
        ))}
      </ul>
      <LastMerges kind={kind} />
    </Page>
  );
}

const keyOf = (pair: DuplicatePair): string => `${pair.one.id} ${pair.other.id}`;

type Side = 'one' | 'other';
const otherThan = (side: Side): Side => (side === 'one' ? 'other' : 'one');

/** Which of two records is kept, and for each field the side that was chosen for it; null: as the record that is kept. */
interface Choices {
  keep: Side;
  from: (Side | null)[];
}

function Pair({
  pair,
  labels,
  onSettled,
  onParted,
}: {
  pair: DuplicatePair;
  labels: Record<string, string>;
  onSettled: () => void;
  onParted: () => void;
}) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const client = useQueryClient();
  const fields = Object.keys(labels).filter((field) => (pair.one.values[field] ?? '') !== '' || (pair.other.values[field] ?? '') !== '');
  const chosen = ({ keep, from }: Choices, at: number): Side => {
    const field = fields[at] ?? '';
    return from[at] ?? ((pair[keep].values[field] ?? '') === '' ? otherThan(keep) : keep);
  };
  const undo = async (merge: Merge): Promise<void> => {
    await call('undoMerge', { id: merge.id });
    await refresh();
    onParted();
    notice(texts.undoneTheyAreTwo);
  };
  const form = useBodyForm('mergeRecords', {
    values: { keep: pair.other.emails > pair.one.emails ? 'other' : 'one', from: fields.map(() => null) } as Choices,
    input: (choices) => ({
      kind: pair.kind,
      id: pair[choices.keep].id,
      body: { gone: pair[otherThan(choices.keep)].id, take: fields.filter((_, at) => chosen(choices, at) !== choices.keep) },
    }),
    checkedBy: 'server',
    onDone: async (done) => {
      onSettled();
      await client.invalidateQueries(answersOf('listMerges'));
      notice(texts.wentIntoMailDeals(done.goneName, done.keptName), {
        label: common.undo,
        run: () => undo(done),
      });
    },
  });
  const refuse = useMutation({
    mutationFn: () => call('refuseDuplicate', { kind: pair.kind, body: { one: pair.one.id, other: pair.other.id } }),
    onSuccess: () => {
      onSettled();
      notice(texts.theyStaySeparateAnd);
    },
  });
  const choices = form.fields.watch();
  return (
    <li>
      <Form form={form} className="rounded-md border border-line bg-raised p-3">
        <div className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
          <span className="tabular font-head font-semibold">{Math.round(pair.likelihood * 100)} %</span>
          <span className="min-w-0 grow text-sm">
            {pair.because.map((item, at) => (
              <span key={item.text} className={item.weight < 0 ? 'text-brick' : ''}>
                {at > 0 && ' · '}
                {item.weight < 0 && texts.but}
                {item.text}
              </span>
            ))}
          </span>
          <span className="flex gap-1.5">
            <Button disabled={refuse.isPending} onClick={() => refuse.mutate()}>
              {texts.notTheSame}
            </Button>
            <Button kind="main" type="submit" disabled={form.pending}>
              {texts.mergeInto(pair[choices.keep].name)}
            </Button>
          </span>
        </div>
        <div className="overflow-x-auto">
          <table className="w-full min-w-[30rem] table-fixed text-sm">
            <colgroup>
              <col className="w-24" />
              <col />
              <col />
            </colgroup>
            <thead>
              <tr className="text-left">
                <th className="font-normal text-muted">{texts.keep}</th>
                {(['one', 'other'] as const).map((side) => (
                  <th key={side} className="py-1 pr-2 font-normal">
                    <label className="flex items-center gap-1.5">
                      <input type="radio" value={side} {...form.fields.register('keep')} />
                      <Link className="truncate text-spruce hover:underline" to={recordPath(pair.kind, pair[side].id)}>
                        {pair[side].name}
                      </Link>
                      <span className="whitespace-nowrap text-muted">
                        {counted(pair[side].emails, 'email')}
                        {pair[side].createdByFulvet && texts.fromMail}
                      </span>
                    </label>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {fields.map((field, at) => {
                const united = ['emails', 'domains', 'phone'].includes(field);
                const same = (pair.one.values[field] ?? '') === (pair.other.values[field] ?? '');
                return (
                  <tr key={field} className="border-t border-line align-top">
                    <td className="py-1 text-muted">{labels[field]}</td>
                    {(['one', 'other'] as const).map((side) => {
                      const value = (pair[side].values[field] ?? '').replace(/;/g, '; ');
                      return (
                        <td key={side} className="py-1 pr-2 break-words">
                          {united || same || value === '' ? (
                            <span className={united ? 'font-mono text-[0.92em] wrap-anywhere' : ''}>
                              {value || <span className="text-muted">–</span>}
                            </span>
                          ) : (
                            <label className="flex items-baseline gap-1.5">
                              <input
                                type="radio"
                                name={`${field} ${keyOf(pair)}`}
                                checked={chosen(choices, at) === side}
                                onChange={() => form.fields.setValue(`from.${at}`, side)}
                              />
                              <span className={chosen(choices, at) === side ? 'font-medium' : 'text-muted'}>{value}</span>
                            </label>
                          )}
                        </td>
                      );
                    })}
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
        <Trouble error={form.error ?? refuse.error} />
      </Form>
    </li>
  );
}

function LastMerges({ kind }: { kind: Kind }) {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const merges = useQuery(asked('listMerges', { kind }));
  const undo = useMutation({
    mutationFn: (merge: Merge) => call('undoMerge', { id: merge.id }),
    onSuccess: async () => {
      await client.invalidateQueries(answersOf('listMerges'));
      await refresh();
      notice(texts.undoneTheyAreTwo);
    },
    onError: (error) => notice(error.message),
  });
  const list = merges.data?.merges ?? [];
  if (list.length === 0) return null;
  return (
    <section className="mt-8 max-w-3xl" aria-label={texts.mergedBefore}>
      <h2 className="mb-1 text-lg">{texts.mergedBefore}</h2>
      <ul className="divide-y divide-line border-y border-line text-sm">
        {list.map((item) => (
          <li key={item.id} className="flex items-baseline gap-2 py-1">
            <span className="min-w-0 grow truncate">
              {filled(texts.into, {
                goneName: item.goneName,
                keptName: item.keptName,
                itemBy: (
                  <span className="text-muted">
                    · {item.by}, <Moment at={item.at} />
                  </span>
                ),
              })}
            </span>
            {item.undone ? (
              <span className="text-muted">{texts.partedAgain}</span>
            ) : (
              <button type="button" className="text-spruce hover:underline" onClick={() => undo.mutate(item)}>
                {texts.partThemAgain}
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
