import { routes } from '@fulvet/contract';
import type { RouteId, RouteShape } from '@fulvet/contract';
import { afterEach } from '@jest/globals';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
// Parts of pages that are loaded at the same time would each begin to load it, which the module loader of the tests cannot do.
import 'date-fns';
import { toast } from 'sonner';
import { cleanup, configure, render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { UserEvent } from '@testing-library/user-event';
import { MemoryRouter, useLocation } from 'react-router';
import type { z } from 'zod';
import { App } from '../App';
import { Notices } from '../parts/Notices';
import { emptyAnswer } from './emptyAnswer';

/** What the page asked of the server. */
export interface Call {
  route: RouteId;
  params: Record<string, string>;
  query: Record<string, string>;
  // Tests look into bodies of many shapes.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  body: any;
}

/** An answer with an error, as the server gives it. */
export class Refused {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly message: string,
    readonly fields: Record<string, string> = {},
  ) {}
}

const faults: unknown[] = [];
afterEach(() => {
  cleanup();
  const [fault] = faults.splice(0);
  if (fault) throw fault;
});

type ResponseOf<R extends RouteId> = (typeof routes)[R]['response'] extends z.ZodType ? z.input<(typeof routes)[R]['response']> : never;
type Answer<T> = T | Refused | ((call: Call) => T | Refused | Promise<T | Refused>);
/** What the server answers, by route. */
export type Answers = { [R in RouteId]?: Answer<ResponseOf<R>> };

export interface OpenPage {
  user: UserEvent;
  /** Opens a list of choices and takes the one with this text. */
  choose: (list: HTMLElement, text: string) => Promise<void>;
  /** The texts of a list of choices, in order. */
  choicesOf: (list: HTMLElement) => Promise<(string | null)[]>;
  /** What was asked of these routes, in order. */
  calls: (route: RouteId) => Call[];
  /** Path and query of the address bar. */
  address: () => string;
  /** Changes what the server answers from now on. */
  answer: (more: Answers) => void;
}

/**
 * Opens the application at a path in a document without a browser, over a server that answers as told. Every body that the page sends
 * and every answer is held against the contract. What is asked for and not given is empty; a change that no one answers fails.
 */
export function openPage(path: string, given: Answers): OpenPage {
  cleanup();
  toast.dismiss();
  prepareDocument();
  const answers: Answers = { ...given };
  const asked: Call[] = [];
  const serve = async (url: string, init: { method: string; body?: string }) => {
    const call = callOf(url, init.method, init.body);
    asked.push(call);
    const { response, method } = routes[call.route] as RouteShape;
    const empty = method === 'get' && 'parse' in response ? emptyAnswer(response) : undefined;
    const answer = (answers[call.route] ?? empty) as Answer<unknown> | undefined;
    if (answer === undefined) throw new Error(`No one answers ${call.route}.`);
    const told = typeof answer === 'function' ? await (answer as (call: Call) => unknown)(call) : answer;
    if (told instanceof Refused) return reply(told.status, { error: { code: told.code, message: told.message, fields: told.fields } });
    return reply(200, 'parse' in response ? response.parse(told) : told);
  };
  globalThis.fetch = ((url: string, init: { method: string; body?: string }) =>
    serve(url, init).catch((error: unknown) => {
      faults.push(error);
      throw error;
    })) as unknown as typeof fetch;
  let address = '';
  function AddressBar() {
    const { pathname, search } = useLocation();
    address = `${pathname}${search}`;
    return null;
  }
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } } });
  render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[path]}>
        <AddressBar />
        <Notices>
          <App />
        </Notices>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  const user = userEvent.setup();
  // The list of choices stands beside the page, and hides the page from readers while it is open.
  const opened = async (list: HTMLElement): Promise<HTMLElement[]> => {
    await user.click(list);
    return screen.findAllByRole('option');
  };
  return {
    user,
    choose: async (list, text) => {
      const found = (await opened(list)).find((option) => option.textContent === text);
      if (!found) throw new Error(`There is no choice "${text}".`);
      await user.click(found);
    },
    choicesOf: async (list) => {
      const texts = (await opened(list)).map((option) => option.textContent);
      await user.keyboard('{Escape}');
      return texts;
    },
    calls: (route) => asked.filter((call) => call.route === route),
    address: () => address,
    answer: (more) => void Object.assign(answers, more),
  };
}

const reply = (status: number, body: unknown) => ({ ok: status < 400, status, json: () => Promise.resolve(structuredClone(body)) });

/** A path without a parameter goes before one that has one at the same place. */
const ORDERED = (Object.entries(routes) as [RouteId, RouteShape][]).sort(
  ([, shape], [, other]) => shape.path.split('{').length - other.path.split('{').length,
);

/** Finds the route of the contract that a request is for, and holds its body against it. */
function callOf(url: string, method: string, text: string | undefined): Call {
  const { pathname, searchParams } = new URL(url, 'http://x.example');
  for (const [name, route] of ORDERED) {
    if (route.method !== method.toLowerCase()) continue;
    const names: string[] = [];
    const pattern = route.path.replace(/\{(\w+)\}/g, (_, param: string) => {
      names.push(param);
      return '([^/]+)';
    });
    const found = new RegExp(`^/api/v1${pattern}$`).exec(pathname);
    if (!found) continue;
    // A file goes as it is.
    const body: unknown = text === undefined || route.body === 'bytes' ? text : JSON.parse(text);
    if (route.body && route.body !== 'bytes') route.body.parse(body);
    const query = Object.fromEntries(searchParams);
    route.query?.parse(query);
    return {
      route: name,
      params: Object.fromEntries(names.map((value, at) => [value, decodeURIComponent(found[at + 1] ?? '')])),
      query,
      body,
    };
  }
  throw new Error(`The contract has no ${method} ${pathname}.`);
}

/** What pages use of a browser that the document here does not have. */
function prepareDocument(): void {
  // What was not found is said in a line, not with the whole document.
  // Machines that are busy take their time; nothing waits longer than it has to.
  configure({ asyncUtilTimeout: 8000, getElementError: (message) => new Error(message?.split('\n')[0] ?? 'not found') });
  const missing: Record<string, unknown> = {
    EventSource: class {
      close(): void {
        // Nothing is told.
      }
    },
    ResizeObserver: class {
      constructor(private readonly seen: (entries: { target: Element; contentRect: DOMRect }[], self: unknown) => void) {}
      observe(target: Element): void {
        this.seen([{ target, contentRect: target.getBoundingClientRect() }], this);
      }
      unobserve(): void {
        // Sizes never change here.
      }
      disconnect(): void {
        // Sizes never change here.
      }
    },
  };
  for (const [name, value] of Object.entries(missing)) if (!(name in globalThis)) Object.assign(globalThis, { [name]: value });
  Object.assign(Element.prototype, {
    scrollIntoView: () => undefined,
    scrollTo: () => undefined,
    hasPointerCapture: () => false,
    setPointerCapture: () => undefined,
    releasePointerCapture: () => undefined,
  });
  // Lists draw what is in sight: everything here has room.
  Object.defineProperty(HTMLElement.prototype, 'offsetHeight', { configurable: true, value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'offsetWidth', { configurable: true, value: 800 });
  window.scrollTo = () => undefined;
  Blob.prototype.text ??= function text(this: Blob): Promise<string> {
    return contentOf(this, (reader, blob) => reader.readAsText(blob)) as Promise<string>;
  };
  Blob.prototype.arrayBuffer ??= function arrayBuffer(this: Blob): Promise<ArrayBuffer> {
    return contentOf(this, (reader, blob) => reader.readAsArrayBuffer(blob)) as Promise<ArrayBuffer>;
  };
  window.matchMedia ??= ((media: string) => ({
    media,
    matches: false,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  })) as never;
}

function contentOf(blob: Blob, read: (reader: FileReader, blob: Blob) => void): Promise<FileReader['result']> {
  return new Promise((resolve) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result);
    read(reader, blob);
  });
}
