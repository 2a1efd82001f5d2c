import type { MailboxCalendars } from '@fulvet/contract';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import { useBodyForm } from '../../parts/form/useBodyForm';
import { Modal } from '../../parts/Modal';
import { useNotice } from '../../parts/Notices';
import { connectCalendars as words, subscribeCalendar as texts } from './words';

interface DialogProps {
  mailboxId: number;
  onClose: () => void;
  onDone: (calendars: MailboxCalendars) => void;
}

/** Finds the calendars at a server. */
export function ConnectCalendars({ mailboxId, account, onClose, onDone }: DialogProps & { account: MailboxCalendars['account'] }) {
  const notice = useNotice();
  const form = useBodyForm('connectCalendars', {
    values: { url: account?.url ?? '', userName: account?.userName ?? '', password: '' },
    input: (body) => ({ id: mailboxId, body }),
    onDone: (found) => {
      onDone(found);
      onClose();
      notice(words.found(found.calendars.filter(({ kind }) => kind !== 'subscribed').length));
    },
  });
  return (
    <Modal open onClose={onClose} title={words.title}>
      <p className="mb-3">{words.how}</p>
      <Form form={form}>
        <TextField
          form={form}
          name="url"
          label={words.server}
          hint={words.serverHint}
          required
          autoComplete="off"
          className="font-mono"
          autoFocus
        />
        <TextField form={form} name="userName" label={words.userName} autoComplete="off" className="font-mono" />
        <TextField form={form} name="password" label={words.password} hint={words.passwordHint} type="password" autoComplete="off" />
        <FormEnd form={form} label={words.find} onCancel={onClose} />
      </Form>
    </Modal>
  );
}

/** Follows a calendar file at an address. */
export function SubscribeCalendar({ mailboxId, onClose, onDone }: DialogProps) {
  const notice = useNotice();
  const form = useBodyForm('subscribeCalendar', {
    values: { url: '', name: '' },
    input: (body) => ({ id: mailboxId, body }),
    onDone: (calendars, { name }) => {
      onDone(calendars);
      onClose();
      notice(texts.subscribed(name));
    },
  });
  return (
    <Modal open onClose={onClose} title={texts.title}>
      <p className="mb-3">{texts.how}</p>
      <Form form={form}>
        <TextField form={form} name="url" label={texts.address} required autoComplete="off" className="font-mono" autoFocus />
        <TextField form={form} name="name" label={texts.name} required />
        <FormEnd form={form} label={texts.subscribe} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
