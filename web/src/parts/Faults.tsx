import { Component } from 'react';
import type { ReactNode } from 'react';
import { Button } from './basics';
import { faults as texts } from './words';

/** What browsers say when a script of the page is not there (any longer), or cannot be fetched. */
const NOT_FETCHED = /dynamically imported module|importing a module script|preload css/i;

interface Props {
  /** A fault is forgotten when this changes: the address of the page. */
  place: string;
  children: ReactNode;
}

interface State {
  fault: Error | null;
  place: string;
}

/** Shows what it holds or, where that cannot be shown, what happened and how to go on. Without it, a fault leaves a blank screen. */
export class Faults extends Component<Props, State> {
  override state: State = { fault: null, place: this.props.place };

  static getDerivedStateFromError(fault: unknown): Partial<State> {
    return { fault: fault instanceof Error ? fault : new Error(String(fault)) };
  }

  static getDerivedStateFromProps({ place }: Props, state: State): State | null {
    return place === state.place ? null : { fault: null, place };
  }

  override render(): ReactNode {
    const { fault } = this.state;
    if (!fault) return this.props.children;
    const isNotFetched = NOT_FETCHED.test(fault.message);
    return (
      <div role="alert" className="mx-auto flex max-w-lg flex-col items-start gap-3 p-8">
        <h1 className="text-xl">{texts.thisPageCouldNot}</h1>
        <p>{isNotFetched ? texts.fulvetWasUpdatedSince : texts.somethingInThisPage}</p>
        {!isNotFetched && <p className="font-mono text-sm break-words text-muted">{fault.message}</p>}
        <Button kind="main" onClick={() => window.location.reload()}>
          {texts.loadThePageAgain}
        </Button>
      </div>
    );
  }
}
