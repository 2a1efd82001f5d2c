import { BAD_SHAPE } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { get, set, useForm } from 'react-hook-form';
import type { DefaultValues, FieldErrors, FieldValues, Path, Resolver, UseFormReturn } from 'react-hook-form';
import { ApiFailure } from '../../api/client';
import { useSentForm as texts } from './words';

/** A form, how it is sent, and what the server said that concerns no field of it. */
export interface SentForm<V extends FieldValues> {
  fields: UseFormReturn<V>;
  send: () => void;
  pending: boolean;
  error: Error | null;
}

interface Options<T, V extends FieldValues> {
  /** What the fields hold at first. */
  values: V;
  send: (values: V) => Promise<T>;
  onDone: (answer: T, values: V) => unknown;
  /** What is wrong before it is sent, by path. */
  faults?: (values: V) => Promise<Record<string, string>>;
}

/** A form that is sent; what is wrong stands beside the field that it is about, whether it is found before or by the server. */
export function useSentForm<T, V extends FieldValues>({ values, send, onDone, faults }: Options<T, V>): SentForm<V> {
  const resolver: Resolver<V> = async (given) => {
    const found = faults ? byField(await faults(given), given) : {};
    const errors: FieldErrors<V> = {};
    for (const [name, message] of Object.entries(found)) set(errors, name, { type: 'contract', message });
    return Object.keys(found).length > 0 ? { values: {}, errors } : { values: given, errors: {} };
  };
  const fields = useForm<V>({ defaultValues: values as DefaultValues<V>, resolver });
  const request = useMutation({
    mutationFn: send,
    onSuccess: async (answer, given) => {
      await onDone(answer, given);
    },
    onError: (error, given) => {
      for (const [name, message] of Object.entries(faultsBeside(error, given)))
        fields.setError(name as Path<V>, { type: 'server', message }, { shouldFocus: true });
    },
  });
  const isBeside = Object.keys(faultsBeside(request.error, request.variables ?? values)).length > 0;
  return {
    fields,
    send: () => void fields.handleSubmit((given) => request.mutate(given))(),
    pending: request.isPending,
    error: isBeside ? null : request.error,
  };
}

/** Words that follow a name. */
const FRAGMENT = /^(?:is|has|must|needs|cannot|says|may|does)\b/;

function faultsBeside<V extends FieldValues>(error: Error | null, values: V): Record<string, string> {
  if (!(error instanceof ApiFailure)) return {};
  const [[name, fault] = ['', ''], ...others] = Object.entries(error.fields);
  // Of a single field the sentence as a whole tells more than a few words: what to do about it, and that nothing was changed.
  const isInFull = others.length === 0 && FRAGMENT.test(fault) && !error.message.startsWith(BAD_SHAPE);
  return byField(isInFull ? { [name]: error.message } : error.fields, values);
}

/** Faults by the field that they are about: the field of their path, else the last part of it that is the name of a field; what is about none stays out. */
function byField<V extends FieldValues>(faults: Readonly<Record<string, string>>, values: V): Record<string, string> {
  const found: Record<string, string> = {};
  for (const [path, message] of Object.entries(faults)) {
    const parts = path.split('.');
    const isField = parts.length > 1 && get(values, path) !== undefined;
    const name = isField ? path : parts.reverse().find((part) => part in values);
    if (name !== undefined) found[name] ??= asSentence(message);
  }
  return found;
}

/** Faults are words that follow a name; beside a field they stand alone. */
export function asSentence(fault: string): string {
  const text = FRAGMENT.test(fault) ? texts.this(fault) : fault;
  return /[.!?…]$/.test(text) ? text : `${text}.`;
}
