import { useMailboxes } from '../../api/queries';
import { HealthMark } from '../../mailboxes/HealthMark';
import { Door, HomeList } from './Door';
import { troubledMailboxes as words } from './words';

/** Mailboxes that need someone, each with what is wrong. */
export default function TroubledMailboxes() {
  const mailboxes = useMailboxes();
  const troubled = (mailboxes.data?.mailboxes ?? []).filter(({ health }) => health?.level === 'trouble' || health?.level === 'stopped');
  if (troubled.length === 0) return null;
  return (
    <HomeList title={words.mailboxesInTrouble}>
      {troubled.slice(0, 5).map(({ id, address, health }) => (
        <Door key={id} to={`/mailboxes/${id}`}>
          {health && <HealthMark level={health.level} />}
          <span className="min-w-0">
            <span className="block truncate font-mono text-sm">{address}</span>
            <span className="block text-sm text-muted">{health?.problem?.title ?? health?.state}</span>
          </span>
        </Door>
      ))}
    </HomeList>
  );
}
