import type { components } from './types';

type Schemas = components['schemas'];

export type Session = Schemas['Session'];
export type Draft = Schemas['Draft'];
export type Part = Schemas['Part'];
export type Change = Schemas['Change'];
export type SavedPart = Schemas['SavedPart'];
export type Replay = Schemas['Replay'];
export type ReplayedSample = Schemas['ReplayedSample'];
export type TracedStep = Schemas['TracedStep'];
export type Trace = Schemas['Trace'];
export type RuleTrace = Schemas['RuleTrace'];
export type RuleStatus = Schemas['RuleStatus'];
export type Difference = Schemas['Difference'];
export type FieldChange = Schemas['FieldChange'];
export type Edition = Schemas['Edition'];
export type EditionWithChanges = Schemas['EditionWithChanges'];
export type Desk = Schemas['Desk'];
export type Person = Schemas['Person'];
export type Team = Schemas['Team'];
export type TicketRecord = Schemas['TicketRecord'];
export type TicketPage = Schemas['TicketPage'];
export type Ticket = Schemas['Ticket'];
export type SavedTicket = Schemas['SavedTicket'];
export type DryRun = Schemas['DryRun'];
export type Run = Schemas['Run'];
export type RunWithTrace = Schemas['RunWithTrace'];
export type TextPart = Schemas['TextPart'];
export type GuardInForce = Schemas['GuardInForce'];
export type SavedRecord = Schemas['SavedRecord'];
export type Mention = Schemas['Mention'];
export type Probe = Schemas['Probe'];
export type ConditionPart = Schemas['ConditionPart'];
export type InputError = Schemas['InputError'];
export type Kind = 'rules' | 'tables' | 'guards' | 'mirrors' | 'samples';

/** A refusal by the server: what is wrong, how to mend it, and where. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly detail: string,
    readonly errors: InputError[],
    readonly current: unknown,
  ) {
    super(title);
  }

  static of(error: unknown): Problem {
    if (error instanceof Problem) return error;
    return new Problem(
      0,
      'The server cannot be reached.',
      'Nothing was lost here. Check the connection and try again.',
      [],
      null,
    );
  }
}

let token = '';

async function call<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<T> {
  const response = await fetch(path, {
    method,
    credentials: 'same-origin',
    headers: {
      Accept: 'application/json',
      ...(method === 'GET' ? {} : { 'X-Sorvel-Token': token }),
      ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
      ...headers,
    },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  if (response.status === 204) return undefined as T;
  const data = await response.json().catch(() => null);
  if (!response.ok) {
    if (response.status === 401 && path !== '/api/session') window.dispatchEvent(new Event('sorvel:signed-out'));
    throw new Problem(
      response.status,
      data?.title ?? 'The server did not answer as expected.',
      data?.detail ?? 'Try again.',
      data?.errors ?? [],
      data?.current ?? null,
    );
  }
  return data as T;
}

function session(answer: Session): Session {
  token = answer.token;
  return answer;
}

const at = (id: string) => encodeURIComponent(id);
const version = (number: number) => ({ 'If-Match': `"${number}"` });

export const api = {
  session: () => call<Session>('GET', '/api/session').then(session),
  signIn: (email: string, password: string) => call<Session>('POST', '/api/session', { email, password }).then(session),
  signOut: () => call<void>('DELETE', '/api/session'),
  draft: () => call<Draft>('GET', '/api/draft'),
  addPart: (kind: Kind, tree: unknown, position?: number) =>
    call<SavedPart>('POST', `/api/draft/${kind}`, { tree, position: position ?? null }),
  savePart: (kind: Kind, key: string, tree: unknown, read: number) =>
    call<SavedPart>('PUT', `/api/draft/${kind}/${at(key)}`, { tree }, version(read)),
  deletePart: (kind: Kind, key: string, read: number) =>
    call<{ changes: Change[] }>('DELETE', `/api/draft/${kind}/${at(key)}`, undefined, version(read)),
  mentions: () => call<{ mentions: Mention[] }>('GET', '/api/draft/mentions'),
  rename: (of: { type: string; field: string; option: string | null; to: string }) =>
    call<{ changes: Change[] }>('POST', '/api/draft/rename', of),
  orderRules: (keys: string[]) => call<{ changes: Change[] }>('PUT', '/api/draft/rules/order', { keys }),
  replay: (change: { kind: Kind; key: string; tree: unknown } | null, trace: string | null) =>
    call<Replay>('POST', '/api/replay', { change, trace }),
  functions: () =>
    call<{ functions: Schemas['Function'][]; operators: { title: string; formulas: string[] }[] }>(
      'GET',
      '/api/functions',
    ),
  tryFormula: (formula: string) =>
    call<{ value: string | null; warnings: string[]; error: string | null }>('POST', '/api/formulas/try', { formula }),
  lines: (of: { formula: string } | { lines: ConditionPart }) =>
    call<{ formula: string; lines: ConditionPart | null; why: string | null }>('POST', '/api/formulas/lines', of),
  text: (of: { formula: string } | { parts: TextPart[] }) =>
    call<{ formula: string; parts: TextPart[] | null }>('POST', '/api/formulas/text', of),
  probe: (of: {
    rule?: string;
    on?: string;
    tree?: unknown;
    formulas: string[];
    sample: string | null;
    step: number;
  }) => call<{ probes: Probe[] }>('POST', '/api/formulas/probe', of),
  editions: () => call<{ editions: Edition[] }>('GET', '/api/editions'),
  edition: (number: number) => call<EditionWithChanges>('GET', `/api/editions/${number}`),
  publish: (note: string) => call<Edition>('POST', '/api/editions', { note }),
  desk: () => call<Desk>('GET', '/api/desk'),
  records: (type: string, q: string) =>
    call<{ records: { id: string; name: string }[] }>('GET', `/api/records?type=${at(type)}&q=${at(q)}`),
  registers: () => call<{ registers: { key: string; title: string; records: number }[] }>('GET', '/api/registers'),
  register: (type: string, query: string) =>
    call<{ records: TicketRecord[]; names: Record<string, string>; total: number; next: string | null }>(
      'GET',
      `/api/registers/${at(type)}?${query}`,
    ),
  createRecord: (type: string, values: Record<string, unknown>) =>
    call<SavedRecord>('POST', `/api/registers/${at(type)}`, { values }),
  changeRecord: (type: string, id: string, values: Record<string, unknown>, read: number) =>
    call<SavedRecord>('PATCH', `/api/registers/${at(type)}/${at(id)}`, { values }, version(read)),
  tickets: (query: string) => call<TicketPage>('GET', `/api/tickets?${query}`),
  ticket: (id: string) => call<Ticket>('GET', `/api/tickets/${at(id)}`),
  createTicket: (type: string, values: Record<string, unknown>) =>
    call<SavedTicket>('POST', '/api/tickets', { type, values }),
  changeTicket: (id: string, values: Record<string, unknown>, read: number) =>
    call<SavedTicket>('PATCH', `/api/tickets/${at(id)}`, { values }, version(read)),
  choices: (of: { id: string | null; type: string; values: Record<string, unknown>; field: string; q: string }) =>
    call<{ options: string[] | null; records: { id: string; name: string }[] | null }>(
      'POST',
      '/api/tickets/choices',
      of,
    ),
  dryRun: (id: string | null, type: string, values: Record<string, unknown>) =>
    id === null
      ? call<DryRun>('POST', '/api/tickets/dry-run', { type, values })
      : call<DryRun>('POST', `/api/tickets/${at(id)}/dry-run`, { values }),
  keepAsSample: (id: string, run: number | null) => call<SavedPart>('POST', `/api/tickets/${at(id)}/sample`, { run }),
  run: (run: number) => call<RunWithTrace>('GET', `/api/runs/${run}`),
};
