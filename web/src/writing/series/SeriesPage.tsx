import type { SeriesRow, User } from '@fulvet/contract';
import { lazy, useDeferredValue, useState } from 'react';
import { Trouble, Waiting } from '../../parts/basics';
import { useAddressBar } from '../../parts/useAddressBar';
import { common } from '../../parts/words';
import type { Listed } from '../ListAndChosen';
import { ListAndChosen } from '../ListAndChosen';
import { scopes } from '../words';
import { useSeries, useSeriesList } from './queries';
import { RunsOfSeries } from './RunList';
import { seriesPage as words } from './words';

const SeriesEditor = lazy(() => import('./SeriesEditor'));

/** Emails and tasks that follow each other, and with whom they go on. */
export default function SeriesPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const [text, setText] = useState('');
  const found = useSeriesList(useDeferredValue(text.trim()));
  const choose = (series: string): void => set({ series });
  return (
    <ListAndChosen
      words={words}
      text={text}
      onText={setText}
      list={found.data?.series.map(listed)}
      chosen={params.get('series')}
      onChosen={choose}
      error={found.error}
    >
      {(open) =>
        open === 'new' ? (
          <SeriesEditor key="new" user={user} series={null} onMade={(made) => choose(String(made))} />
        ) : (
          <Chosen id={open} user={user} onChosen={choose} />
        )
      }
    </ListAndChosen>
  );
}

const listed = ({ id, name, stepCount, open, language, scope, team }: SeriesRow): Listed => ({
  id,
  group: '',
  name,
  note: [
    words.steps(stepCount),
    open > 0 && words.open(open),
    language,
    scope === 'team' ? (team?.name ?? '') : scope === 'all' ? scopes.all : '',
  ]
    .filter(Boolean)
    .join(' · '),
});

function Chosen({ id, user, onChosen }: { id: number; user: User; onChosen: (series: string) => void }) {
  const series = useSeries(id);
  if (series.isError) return <Trouble error={series.error} />;
  if (!series.data) return <Waiting what={common.loading} />;
  return (
    <div className="min-w-0 max-w-3xl">
      <SeriesEditor
        key={`${id} ${series.data.revision}`}
        user={user}
        series={series.data}
        onMade={(made) => onChosen(String(made))}
        onGone={() => onChosen('')}
      />
      <RunsOfSeries user={user} seriesId={id} />
    </div>
  );
}
