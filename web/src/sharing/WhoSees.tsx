import type { EmailDetail, User } from '@fulvet/contract';
import { Eye, EyeOff } from 'lucide-react';
import { useState } from 'react';
import { useEyes, useSharingChoices } from './queries';
import { useRemoveSharingChoice } from './useSharing';
import { Button, Trouble } from '../parts/basics';
import { seenBy } from '../parts/seenBy';
import { sharingChoiceText } from './shareWords';
import { ShareDialog } from './ShareDialog';
import { common } from '../parts/words';
import { whoSees as texts } from './words';

/** Who sees an email: in a sentence, one by one with why, and for its owner the way to say otherwise. */
export function WhoSees({ email, user }: { email: EmailDetail; user: User }) {
  const [open, setOpen] = useState(false);
  const [sharing, setSharing] = useState(false);
  const level = `${email.visibility}${email.visibility === 'teams' ? `: ${email.sharedTeams.join(', ')}` : ''}${email.existenceOnly ? texts.exists : ''}`;
  return (
    <section aria-label={common.whoSeesIt} className="mt-3 border-t border-line pt-2.5">
      <p>{email.outcome === 'sealed' ? texts.sealedOnlyTheUsers : <>{texts.seenBy(seenBy(level))}</>}</p>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {email.owned && user.role !== 'viewer' && <Button onClick={() => setSharing(true)}>{texts.shareOrSeal}</Button>}
        <Button kind="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          <Eye size={15} aria-hidden /> {texts.whoSeesIt}
        </Button>
      </div>
      {email.owned && <SharingChoices email={email.id} />}
      {open && <EyeList email={email.id} />}
      {sharing && <ShareDialog email={email} user={user} onClose={() => setSharing(false)} />}
    </section>
  );
}

function EyeList({ email }: { email: number }) {
  const eyes = useEyes(email, true);
  if (!eyes.data) return <Trouble error={eyes.error} />;
  return (
    <div className="mt-2 border-l-2 border-line pl-2.5 text-sm">
      <ul className="space-y-1" aria-label={common.whoSeesIt}>
        {eyes.data.eyes.map((viewer) => (
          <li key={viewer.user.id} className="flex items-baseline gap-2">
            {viewer.reads ? (
              <Eye size={13} className="shrink-0 translate-y-0.5 text-spruce" aria-label={texts.readsIt} />
            ) : (
              <EyeOff size={13} className="shrink-0 translate-y-0.5 text-muted" aria-label={texts.knowsThatItExists} />
            )}
            <span className="min-w-0 break-words">
              <span className="font-medium">{viewer.user.name}</span>: <span className="text-muted">{viewer.why.join('; ')}</span>
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-muted">{eyes.data.nobody === 0 ? texts.allMembersAreListed : texts.otherMembersDoNot(eyes.data.nobody)}</p>
    </div>
  );
}

/** What the owner said about this email, each with a way to take it back. */
function SharingChoices({ email }: { email: number }) {
  const choices = useSharingChoices(email);
  const back = useRemoveSharingChoice();
  if (!choices.data || choices.data.choices.length === 0) return null;
  return (
    <ul className="mt-2 space-y-1 border-l-2 border-line pl-2.5 text-sm" aria-label={texts.yourSharingChoices}>
      {choices.data.choices.map((choice) => (
        <li key={choice.id} className="flex items-baseline gap-2">
          <span className="min-w-0 grow break-words">{texts.yourChoice(sharingChoiceText(choice))}</span>
          <button type="button" className="text-spruce hover:underline" disabled={back.isPending} onClick={() => back.mutate(choice.id)}>
            {texts.removeChoice}
          </button>
        </li>
      ))}
    </ul>
  );
}
