import { Link } from 'react-router';
import { versionLink as texts } from './words';

/** The version in force; for administrators the way to all of them. */
export function VersionLink({ version, admin }: { version: number; admin: boolean }) {
  const words = texts.rulebookVersion(version);
  return admin ? (
    <Link className="tabular text-sm text-muted underline decoration-dotted underline-offset-4 hover:text-ink" to="/versions">
      {words}
    </Link>
  ) : (
    <span className="tabular text-sm text-muted">{words}</span>
  );
}
