import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { call } from '../../api/call';
import { ApiFailure } from '../../api/client';
import { Button, Field, Trouble } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import { useNotice } from '../../parts/Notices';
import { RecordPicker } from '../../parts/RecordPicker';
import type { PickedRecord } from '../../parts/RecordPicker';
import { Option, Select } from '../../parts/Select';
import { SERIES_ANSWERS, useSeriesList } from './queries';
import { seriesPage, startSeries as words } from './words';

/** Begins a series with someone: which, for which deal, and whether each email is looked at first. */
export default function StartSeries({ to, onClose }: { to: { name: string; address: string }; onClose: () => void }) {
  const client = useQueryClient();
  const notice = useNotice();
  const list = useSeriesList('').data?.series;
  const [seriesId, setSeriesId] = useState('');
  const [deal, setDeal] = useState<PickedRecord | null>(null);
  const [asks, setAsks] = useState(true);
  const start = useMutation({
    mutationFn: (instead: boolean) =>
      call('startSeries', {
        id: Number(seriesId),
        body: { to, dealId: deal?.id ?? null, asks, instead, zone: Intl.DateTimeFormat().resolvedOptions().timeZone },
      }),
    onSuccess: async ({ name }) => {
      await client.invalidateQueries(SERIES_ANSWERS);
      notice(words.started(name, to.name || to.address));
      onClose();
    },
  });
  const hasOwn = start.error instanceof ApiFailure && start.error.code === 'own-series';
  return (
    <Modal open onClose={onClose} title={words.title(to.name || to.address)}>
      {list?.length === 0 ? (
        <p>
          {words.none}{' '}
          <Link to="/series?series=new" className="text-spruce hover:underline">
            {words.keepOne}
          </Link>
        </p>
      ) : (
        <div className="space-y-3">
          <Field label={words.series}>
            <Select value={seriesId} onValue={setSeriesId}>
              <Option value="">{words.chooseASeries}</Option>
              {list?.map(({ id, name, stepCount }) => (
                <Option key={id} value={String(id)}>
                  {`${name} · ${seriesPage.steps(stepCount)}`}
                </Option>
              ))}
            </Select>
          </Field>
          <div>
            <p className="mb-1 text-sm font-medium">{words.deal}</p>
            <span className="flex flex-wrap items-center gap-2">
              <RecordPicker label={words.chooseADeal} only="deal" onPick={setDeal}>
                <button type="button" className="min-h-8 rounded border border-line bg-raised px-2.5 hover:border-muted">
                  {deal?.name ?? words.chooseADeal}
                </button>
              </RecordPicker>
              {deal && (
                <Button kind="quiet" onClick={() => setDeal(null)}>
                  {words.noDeal}
                </Button>
              )}
            </span>
            <p className="mt-0.5 text-sm text-muted">{words.dealHint}</p>
          </div>
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={asks} onChange={(event) => setAsks(event.target.checked)} />
            {words.asks}
          </label>
          <p className="text-sm text-muted">{words.stopsAt}</p>
          <Trouble error={start.error} />
          <div className="flex flex-wrap gap-2">
            <Button kind="main" disabled={seriesId === '' || start.isPending} onClick={() => start.mutate(false)}>
              {words.startIt}
            </Button>
            {hasOwn && (
              <Button disabled={start.isPending} onClick={() => start.mutate(true)}>
                {words.startInstead}
              </Button>
            )}
          </div>
        </div>
      )}
    </Modal>
  );
}
