import type { User } from '@fulvet/contract';
import { useParams } from 'react-router';
import { Aside } from './Aside';
import { History } from './History';
import { useHistoryFilter } from './HistoryFilters';
import { InsightsPanel } from './InsightsPanel';

/** All conversations with an external domain, whether it is on record or not. */
export default function DomainPage({ user }: { user: User }) {
  const { domain = '' } = useParams();
  const [, setFilter] = useHistoryFilter();
  const source = { kind: 'domain' as const, id: domain };
  return (
    <div className="px-4 pt-4 pb-16 sm:px-6">
      <h1 className="mb-4 font-mono text-lg wrap-anywhere">{domain}</h1>
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_17rem]">
        <History source={source} editable={user.role !== 'viewer'} />
        <Aside>
          <InsightsPanel source={source} onPerson={(person) => setFilter({ person })} />
        </Aside>
      </div>
    </div>
  );
}
