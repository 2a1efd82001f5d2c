import { useId } from 'react';
import type { InputHTMLAttributes, ReactNode } from 'react';
import { useController } from 'react-hook-form';
import type { FieldValues, Path } from 'react-hook-form';
import { Button, Field, TextInput, Trouble } from '../basics';
import { Select } from '../Select';
import { Ticks } from '../Ticks';
import type { SentForm } from './useSentForm';
import { common } from '../words';

/** Faults stand beside their fields, so the browser's own are off. */
export function Form<V extends FieldValues>({
  form,
  className = 'space-y-3',
  label,
  children,
}: {
  form: SentForm<V>;
  className?: string;
  label?: string;
  children: ReactNode;
}) {
  return (
    <form
      noValidate
      aria-label={label}
      className={className}
      onSubmit={(event) => {
        event.preventDefault();
        form.send();
      }}
    >
      {children}
    </form>
  );
}

interface Named<V extends FieldValues> {
  form: SentForm<V>;
  name: Path<V>;
  label: string;
  hint?: string;
}

type InputProps = Omit<InputHTMLAttributes<HTMLInputElement>, 'form' | 'name' | 'value' | 'onChange'>;

/** A line of text. */
export function TextField<V extends FieldValues>({ form, name, label, hint, onBlur, ...rest }: Named<V> & InputProps) {
  const noteId = useId();
  const { error, invalid } = form.fields.getFieldState(name, form.fields.formState);
  return (
    <Field label={label} error={error?.message} hint={hint} noteId={noteId}>
      <TextInput
        aria-invalid={invalid || undefined}
        aria-describedby={error || hint ? noteId : undefined}
        {...form.fields.register(name, onBlur ? { onBlur } : {})}
        {...rest}
      />
    </Field>
  );
}

/** A list of choices. */
export function SelectField<V extends FieldValues>({ form, name, label, hint, children }: Named<V> & { children: ReactNode }) {
  const { field, fieldState } = useController({ control: form.fields.control, name });
  return (
    <Field label={label} error={fieldState.error?.message} hint={hint}>
      <Select value={String(field.value)} onValue={field.onChange}>
        {children}
      </Select>
    </Field>
  );
}

/** A box to tick, with what it says. */
export function TickField<V extends FieldValues>({ form, name, label }: Pick<Named<V>, 'form' | 'name' | 'label'>) {
  return (
    <label className="flex min-h-7 items-baseline gap-2">
      <input type="checkbox" {...form.fields.register(name)} /> {label}
    </label>
  );
}

/** Several of a list. */
export function TicksField<V extends FieldValues>({
  form,
  name,
  label,
  none,
  options,
}: Pick<Named<V>, 'form' | 'name' | 'label'> & { none: string; options: readonly { value: string; shown: ReactNode }[] }) {
  const { field } = useController({ control: form.fields.control, name });
  return <Ticks label={label} none={none} options={options} chosen={field.value as string[]} onChange={field.onChange} />;
}

/** One of a few choices, all of them in sight. */
export function RadioField<V extends FieldValues>({
  form,
  name,
  legend,
  isLegendHidden = false,
  value,
  options,
}: Pick<Named<V>, 'form' | 'name'> & {
  legend: string;
  /** Where the words around say it already. */
  isLegendHidden?: boolean;
  /** What counts as chosen, where that is not the value of the field alone. */
  value?: string;
  options: readonly { value: string; label: ReactNode; disabled?: boolean }[];
}) {
  const { field } = useController({ control: form.fields.control, name });
  return (
    <fieldset className="space-y-1">
      <legend className={isLegendHidden ? 'sr-only' : 'mb-1 text-sm font-medium'}>{legend}</legend>
      {options.map(({ value: option, label, disabled }) => (
        <label key={option} className="flex items-baseline gap-2">
          <input
            type="radio"
            className="translate-y-0.5 accent-(--spruce)"
            name={name}
            checked={(value ?? field.value) === option}
            disabled={disabled}
            onChange={() => field.onChange(option)}
          />
          <span className="min-w-0">{label}</span>
        </label>
      ))}
    </fieldset>
  );
}

/** What went wrong beside no field, and the button that sends. */
export function FormEnd<V extends FieldValues>({
  form,
  label,
  pending,
  kind = 'main',
  disabled = false,
  cancel = common.cancel,
  onCancel,
}: {
  form: SentForm<V>;
  label: string;
  /** What the button says while it is sent. */
  pending?: string;
  kind?: 'main' | 'plain' | 'danger';
  disabled?: boolean;
  /** What leaving it is called. */
  cancel?: string;
  onCancel?: () => void;
}) {
  const send = (
    <Button kind={kind} type="submit" disabled={form.pending || disabled}>
      {form.pending && pending ? pending : label}
    </Button>
  );
  return (
    <>
      <Trouble error={form.error} />
      {onCancel ? (
        <div className="flex flex-wrap justify-end gap-2">
          <Button onClick={onCancel}>{cancel}</Button>
          {send}
        </div>
      ) : (
        send
      )}
    </>
  );
}
