import { useQuery } from '@tanstack/react-query';
import { asked } from '../../api/asked';
import { Moment } from '../../parts/Moment';
import { Door, HomeList } from './Door';
import { adminLists as words } from './words';

/** Rules that took far more or far less than they usually do. */
export function UnusualRules() {
  const found = useQuery(asked('listUnusualRules'));
  const rules = found.data?.rules ?? [];
  if (rules.length === 0) return null;
  return (
    <HomeList title={words.rulesThatBehaveUnusually}>
      {rules.slice(0, 5).map(({ rule, name, took, usual, since }) => (
        <Door key={rule} to={`/all-mail?applied=${encodeURIComponent(rule)}&from=${since}`}>
          <span className="min-w-0">
            <span className="block truncate">{name}</span>
            <span className="tabular block text-sm text-muted">{words.emailsIn7Days(took, usual)}</span>
          </span>
        </Door>
      ))}
    </HomeList>
  );
}

/** What was changed last, from the log. */
export function RecentChanges() {
  const log = useQuery(asked('listAudit', { limit: 60 }));
  const entries = (log.data?.entries ?? []).filter(({ kind }) => kind !== 'sign-in').slice(0, 6);
  if (entries.length === 0) return null;
  return (
    <HomeList title={words.recentChanges}>
      {entries.map(({ at, actor, about, hash }) => (
        <Door key={hash} to="/log">
          <span className="min-w-0 grow truncate">
            {actor} <span className="text-muted">{about}</span>
          </span>
          <Moment at={at} className="tabular text-sm whitespace-nowrap text-muted" />
        </Door>
      ))}
    </HomeList>
  );
}
