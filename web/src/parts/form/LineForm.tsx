import { useId } from 'react';
import { Button, TextInput } from '../basics';
import { clsx } from '../clsx';
import { useSentForm } from './useSentForm';

interface Props {
  /** What the field is, for those who do not see its button. */
  label: string;
  button: string;
  /** What it holds at first, and again after it was sent. */
  value?: string;
  placeholder?: string;
  /** For addresses and domains. */
  isMono?: boolean;
  className?: string;
  disabled?: boolean;
  /** Whether what is written can be sent. */
  isReady: (text: string) => boolean;
  /** What is wrong with it, as a sentence; null: nothing. */
  faultOf?: (text: string) => string | null;
  /** It stays in the field after it was sent. */
  stays?: boolean;
  onSend: (text: string) => unknown;
}

/** A field and a button in one line: what is written is added, or looked up, at once. */
export function LineForm({
  label,
  button,
  value = '',
  placeholder,
  isMono = false,
  className,
  disabled = false,
  isReady,
  faultOf,
  stays = false,
  onSend,
}: Props) {
  const noteId = useId();
  const form = useSentForm<string, { text: string }>({
    values: { text: value },
    faults: ({ text }) => {
      const fault = faultOf?.(text) ?? null;
      return Promise.resolve(fault === null ? {} : ({ text: fault } as Record<string, string>));
    },
    send: ({ text }) => Promise.resolve(text),
    onDone: async (text) => {
      await onSend(text);
      if (!stays) form.fields.reset();
    },
  });
  const { register, watch, formState } = form.fields;
  const fault = formState.errors.text?.message;
  return (
    <form
      noValidate
      className={className}
      onSubmit={(event) => {
        event.preventDefault();
        if (isReady(watch('text'))) form.send();
      }}
    >
      <div className="flex gap-2">
        <TextInput
          aria-label={label}
          aria-invalid={fault !== undefined || undefined}
          aria-describedby={fault === undefined ? undefined : noteId}
          className={clsx(isMono && 'font-mono text-sm!')}
          placeholder={placeholder}
          disabled={disabled}
          {...register('text')}
        />
        <Button type="submit" disabled={disabled || form.pending || !isReady(watch('text'))}>
          {button}
        </Button>
      </div>
      {fault !== undefined && (
        <p id={noteId} role="alert" className="mt-1 text-sm text-brick">
          {fault}
        </p>
      )}
    </form>
  );
}
