import type { Answer, Input, RouteId } from '@fulvet/contract';
import type { FieldValues } from 'react-hook-form';
import { call } from '../../api/call';
import { faultsOf } from './faultsOf';
import type { SentForm } from './useSentForm';
import { useSentForm } from './useSentForm';

interface Options<Id extends RouteId, V extends FieldValues> {
  values: V;
  /** What the route is called with: parameters, and the body made from the values. */
  input: (values: V) => Input<Id>;
  onDone: (answer: Answer<Id>, values: V) => unknown;
  /** `server`: what is wrong is left to the server, and the contract is not loaded for it. */
  checkedBy?: 'contract' | 'server';
}

/** A form whose values become the body of a request; the shape in the contract says what is wrong before it is sent. */
export function useBodyForm<Id extends RouteId, V extends FieldValues>(
  route: Id,
  { values, input, onDone, checkedBy = 'contract' }: Options<Id, V>,
): SentForm<V> {
  return useSentForm({
    values,
    send: (given: V) => (call as (id: RouteId, input: unknown) => Promise<unknown>)(route, input(given)) as Promise<Answer<Id>>,
    onDone,
    ...(checkedBy === 'contract' ? { faults: (given: V) => faultsOf(route, (input(given) as { body?: unknown }).body) } : {}),
  });
}
