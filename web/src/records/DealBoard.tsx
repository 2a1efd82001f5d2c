import type { DealStage, RecordPage, RecordRow } from '@fulvet/contract';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { DndContext, PointerSensor, useDraggable, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import { CSS } from '@dnd-kit/utilities';
import { useState } from 'react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import type { RecordFilter } from '../api/queries';
import { useRecordSetup, useRefreshAll } from '../api/queries';
import { Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { count, counted } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { quietDays } from './recordColumns';
import { dealBoard as texts } from './words';

const MOST = 500;

/** Deals by stage: dragged from one to another, or moved with Alt and the arrows. */
export function DealBoard({ filter, editable }: { filter: RecordFilter; editable: boolean }) {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const setup = useRecordSetup();
  const [error, setError] = useState<unknown>(null);
  // A click opens a card: it is dragged once the pointer has moved a little.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const board = asked('listRecords', { kind: 'deal', ...filter, sort: 'amount', descending: 'yes', limit: MOST });
  const deals = useQuery({
    ...board,
    placeholderData: keepPreviousData,
  });
  if (deals.isPending || setup.isPending) return <Waiting what={texts.loadingDeals} />;
  const rows = deals.data?.records ?? [];
  const stages = stagesOf(setup.data?.stages ?? [], rows, filter.open ?? '');
  const put = async (row: RecordRow, stage: string): Promise<number | null> => {
    const { undo: step } = await call('editRecord', { kind: 'deal', id: row.id, body: { values: { stage } } });
    await refresh();
    return step;
  };
  const move = (row: RecordRow, stage: string): void => {
    const before = row.stage ?? '';
    if (before === stage) return;
    setError(null);
    // The card stands there at once; where it cannot be saved, the list is asked for again.
    client.setQueryData<RecordPage>(
      board.queryKey,
      (page) => page && { ...page, records: page.records.map((record) => (record.id === row.id ? { ...record, stage } : record)) },
    );
    put(row, stage)
      .then((step) => notice(texts.isAt(row.name, stage || texts.noStage), undo(step)))
      .catch((failure: unknown) => {
        setError(failure);
        void client.invalidateQueries({ queryKey: board.queryKey });
      });
  };
  return (
    <>
      <div className="px-3">
        <Trouble error={error ?? deals.error} />
        {(deals.data?.total ?? 0) > MOST && <p className="text-sm text-muted">{texts.theLargestOfDeals(MOST, deals.data?.total ?? 0)}</p>}
      </div>
      <DndContext
        sensors={sensors}
        onDragEnd={({ active, over }) => {
          const row = rows.find((item) => item.id === active.id);
          if (row && over) move(row, stageOfColumn(over.id));
        }}
      >
        <div className="flex min-h-0 grow gap-2 overflow-x-auto border-t border-line px-3 py-2">
          {stages.map((stage, column) => {
            const own = rows.filter((row) => (row.stage ?? '').toLowerCase() === stage.name.toLowerCase());
            return (
              <Column key={stage.name} stage={stage.name}>
                <h2 className="px-2 pt-1 text-base leading-tight">
                  {stage.name || texts.noStageChosen}
                  {!stage.open && <span className="ml-1 text-xs font-normal text-muted">{texts.closed}</span>}
                </h2>
                <p className="tabular px-2 pb-1.5 text-sm text-muted">
                  {counted(own.length, 'deal')}
                  {sums(own).map((sum) => ` · ${sum}`)}
                </p>
                <ul className="min-h-10 space-y-1.5 overflow-y-auto px-1 pb-2">
                  {own.map((row) => (
                    <Card
                      key={row.id}
                      row={row}
                      editable={editable}
                      onMove={(step) => {
                        const next = stages[column + step];
                        if (next) move(row, next.name);
                      }}
                    />
                  ))}
                </ul>
              </Column>
            );
          })}
        </div>
      </DndContext>
    </>
  );
}

/** A column as a place to drop a card. Stages have any name, and there may be none: a column's id is the name behind a sign. */
const columnOf = (stage: string): string => `stage:${stage}`;
const stageOfColumn = (id: string | number): string => String(id).slice('stage:'.length);

function Column({ stage, children }: { stage: string; children: ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id: columnOf(stage) });
  return (
    <section
      ref={setNodeRef}
      aria-label={stage || texts.noStageChosen}
      className={clsx('flex w-56 shrink-0 flex-col rounded-md', isOver ? 'bg-sunk' : 'bg-transparent')}
    >
      {children}
    </section>
  );
}

function Card({ row, editable, onMove }: { row: RecordRow; editable: boolean; onMove: (step: 1 | -1) => void }) {
  const quiet = quietDays(row, Date.now());
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({ id: row.id, disabled: !editable });
  return (
    <li
      ref={setNodeRef}
      className={clsx(isDragging && 'relative z-10 opacity-80')}
      style={{ transform: CSS.Translate.toString(transform) }}
      {...listeners}
    >
      <Link
        to={recordPath('deal', row.id)}
        draggable={false}
        aria-description={editable ? texts.altWithTheLeft : undefined}
        className="block rounded border border-line bg-raised px-2.5 py-1.5 hover:border-muted"
        onKeyDown={(event) => {
          if (!editable || !event.altKey || (event.key !== 'ArrowRight' && event.key !== 'ArrowLeft')) return;
          event.preventDefault();
          onMove(event.key === 'ArrowRight' ? 1 : -1);
        }}
      >
        <span className="block leading-snug font-medium break-words">{row.name}</span>
        <span className="block truncate text-sm text-muted">{row.account?.name}</span>
        <span className="tabular mt-0.5 flex flex-wrap gap-x-2 text-sm">
          {row.amount !== null && <span>{`${count(row.amount)} ${row.currency ?? ''}`.trim()}</span>}
          {row.unanswered > 0 && <span className="font-medium text-ochre">{texts.unanswered(row.unanswered)}</span>}
          <span className="ml-auto text-muted">{quiet === null ? texts.noMail : quiet === 0 ? texts.today : texts.dQuiet(quiet)}</span>
        </span>
      </Link>
    </li>
  );
}

/** The stages in their order, and those that deals stand at beside them. */
function stagesOf(stages: readonly DealStage[], rows: readonly RecordRow[], open: string): { name: string; open: boolean }[] {
  const shown = stages.filter((stage) => open === '' || stage.open === (open === 'yes'));
  const known = new Set(stages.map((stage) => stage.name.toLowerCase()));
  const others = [...new Set(rows.map((row) => row.stage ?? ''))].filter((name) => !known.has(name.toLowerCase()));
  return [...others.map((name) => ({ name, open: true })), ...shown];
}

/** Amounts by currency. */
function sums(rows: readonly RecordRow[]): string[] {
  const byCurrency = new Map<string, number>();
  for (const row of rows)
    if (row.amount !== null) byCurrency.set(row.currency ?? '', (byCurrency.get(row.currency ?? '') ?? 0) + row.amount);
  return [...byCurrency].map(([currency, sum]) => `${count(sum)} ${currency}`.trim());
}
