import type { components, paths } from './types';

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
export type Fate = Schemas['Fate'];
export type SavedView = Schemas['SavedView'];
export type Note = Schemas['Note'];
export type Related = Schemas['Related'];
export type News = Schemas['News'];
export type Ask = Schemas['Ask'];
export type AskType = Schemas['AskType'];
export type OwnTicket = Schemas['OwnTicket'];
export type Import = Schemas['Import'];
export type ImportRow = Schemas['ImportRow'];
export type OutsideList = Schemas['OutsideList'];
export type OutsideBody = Schemas['OutsideBody'];
export type LineCheck = Schemas['LineCheck'];
export type Reports = Schemas['Reports'];
export type ConvertedField = Schemas['ConvertedField'];
export type Finding = Schemas['Finding'];
export type MachineToken = Schemas['MachineToken'];
export type InTheWay = Schemas['InTheWay'];
export type Approval = Schemas['Approval'];
export type LongWork = Schemas['LongWork'];
export type ComparedEvent = Schemas['ComparedEvent'];
export type ComparedSide = Schemas['ComparedSide'];
export type WorkKind = 'notice' | 'propose' | 'impact' | 'way_back' | 'replay';
export type Kind = 'types' | 'rules' | 'tables' | 'guards' | 'mirrors' | 'samples';

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

/** A body that is sent as it is. */
class Raw {
  constructor(readonly body: Blob | string) {}
}

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
    body: body === undefined ? undefined : body instanceof Raw ? body.body : JSON.stringify(body),
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

export type LoggedRun = Schemas['LoggedRun'];
export type Incoming = Schemas['Incoming'];
export type Outgoing = Schemas['Outgoing'];
export type AllowedAddress = Schemas['AllowedAddress'];
export type Notice = Schemas['Notice'];
export type Done = Schemas['Done'];
export type ActionTrace = Schemas['ActionTrace'];
export type RuleCount =
  paths['/api/runs/by-rule']['get']['responses']['200']['content']['application/json']['rules'][number];
export type RuleFit = paths['/api/rules/fit']['post']['responses']['200']['content']['application/json'];
export type RuleTrial = paths['/api/rules/try']['post']['responses']['200']['content']['application/json'];

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
  /** All samples; or one, traced in full; or some. */
  replay: (
    change: { kind: Kind; key: string; tree: unknown } | null,
    one: string | null = null,
    some: string[] | undefined = undefined,
  ) => call<Replay>('POST', '/api/replay', { change, trace: one, only: one, some }),
  /** One sample under the edition in force, traced in full. */
  replayUnderEdition: (one: string) =>
    call<Replay>('POST', '/api/replay', { change: null, trace: one, only: one, edition: true }),
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
  publish: (note: string, override?: string) => call<Edition>('POST', '/api/editions', { note, override }),
  editionRulebook: (number: number) =>
    call<{ edition: Edition; rulebook: Record<string, unknown>; samples: Record<string, unknown>[] }>(
      'GET',
      `/api/editions/${number}/rulebook`,
    ),
  compare: (from: string, to: string) =>
    call<{ changes: Change[]; parts: EditionWithChanges['parts'] }>('GET', `/api/compare?from=${from}&to=${to}`),
  tokens: () => call<{ tokens: MachineToken[] }>('GET', '/api/tokens'),
  makeToken: (name: string, role: string) =>
    call<MachineToken & { secret: string }>('POST', '/api/tokens', { name, role }),
  endToken: (number: number) => call<void>('DELETE', `/api/tokens/${number}`),
  gate: () => call<InTheWay & { approval: Approval }>('GET', '/api/editions/gate'),
  approve: () => call<Approval>('POST', '/api/editions/approval', {}),
  askForApproval: (asked: boolean) => call<Approval>('PUT', '/api/editions/approval', { asked }),
  goBack: (number: number, reason: string, discard: boolean) =>
    call<Edition>('POST', `/api/editions/${number}/back`, { reason, discard }),
  findings: () => call<{ findings: Finding[] }>('GET', '/api/findings'),
  acceptFinding: (id: string, reason: string) =>
    call<Schemas['AcceptedFinding']>('PUT', `/api/findings/${at(id)}/accepted`, { reason }),
  reopenFinding: (id: string) => call<void>('DELETE', `/api/findings/${at(id)}/accepted`),
  /** How far it is. */
  work: (number: number) => call<LongWork>('GET', `/api/work/${number}?result=no`),
  workWithResult: (number: number) => call<LongWork>('GET', `/api/work/${number}`),
  lastWork: (kind: WorkKind) => call<{ work: LongWork | null }>('GET', `/api/work?kind=${kind}`),
  past: () => call<{ count: number; since: string | null }>('GET', '/api/past'),
  comparePast: (number: number) => call<ComparedEvent>('GET', `/api/past/${number}`),
  pastAsSample: (number: number) => call<{ tree: Record<string, unknown> }>('GET', `/api/past/${number}/sample`),
  askForWork: (of: { kind: WorkKind; rule?: string; days?: number; edition?: number }) =>
    call<LongWork>('POST', '/api/work', of),
  actOnWork: (number: number, act: 'stop' | 'go_on') => call<LongWork>('POST', `/api/work/${number}`, { act }),
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
  deleteTicket: (id: string, read: number) => call<void>('DELETE', `/api/tickets/${at(id)}`, undefined, version(read)),
  deleteRecord: (type: string, id: string, read: number) =>
    call<void>('DELETE', `/api/registers/${at(type)}/${at(id)}`, undefined, version(read)),
  changeTickets: (tickets: { id: string; version: number }[], values: Record<string, unknown>, mode: 'try' | 'save') =>
    call<{ fates: Fate[] }>('POST', '/api/tickets/bulk', { tickets, values, mode }),
  addNote: (id: string, of: { for: 'staff' | 'requester'; text: string }) =>
    call<Note>('POST', `/api/tickets/${at(id)}/notes`, of),
  watch: (id: string, person: string, on: boolean) =>
    call<{ watchers: string[] }>(
      on ? 'PUT' : 'DELETE',
      `/api/tickets/${at(id)}/watchers/${at(person)}`,
      on ? {} : undefined,
    ),
  changes: (since: string) =>
    call<{ since: string; edition: number | null; records: string[]; news: News[]; notices: Notice[] }>(
      'GET',
      `/api/changes${since ? `?since=${since}` : ''}`,
    ),
  views: () => call<{ views: SavedView[] }>('GET', '/api/views'),
  addView: (view: Schemas['ViewBody']) => call<SavedView>('POST', '/api/views', view),
  changeView: (number: number, view: Schemas['ViewBody']) => call<SavedView>('PUT', `/api/views/${number}`, view),
  deleteView: (number: number) => call<void>('DELETE', `/api/views/${number}`),
  exported: (type: string, query: string) =>
    call<({ id: string } & Record<string, unknown>)[]>('GET', `/api/export/${at(type)}.json?${query}`),
  ask: () => call<Ask>('GET', '/api/ask'),
  sendAsk: (type: string, values: Record<string, unknown>) =>
    call<{ ticket: TicketRecord }>('POST', '/api/ask', { type, values }),
  askDryRun: (type: string, values: Record<string, unknown>) =>
    call<{
      refused: { field: string; reason: string }[];
      guards: { field: string; effect: string; reason: string | null }[];
    }>('POST', '/api/ask/dry-run', { type, values }),
  askChoices: (of: { type: string; values: Record<string, unknown>; field: string; q: string }) =>
    call<{ options: string[] | null; records: { id: string; name: string }[] | null }>('POST', '/api/ask/choices', of),
  ownTicket: (id: string) => call<OwnTicket>('GET', `/api/ask/tickets/${at(id)}`),
  changeOwnTicket: (id: string, values: Record<string, unknown>, read: number) =>
    call<OwnTicket>('PATCH', `/api/ask/tickets/${at(id)}`, { values }, version(read)),
  addOwnNote: (id: string, text: string) => call<Note>('POST', `/api/ask/tickets/${at(id)}/notes`, { text }),
  imports: () => call<{ imports: Import[] }>('GET', '/api/imports'),
  import: (number: number) => call<Import>('GET', `/api/imports/${number}`),
  importRows: (number: number, fate: string | null, after: number) =>
    call<{ rows: ImportRow[]; next: number | null }>(
      'GET',
      `/api/imports/${number}/rows?after=${after}${fate ? `&fate=${fate}` : ''}`,
    ),
  readImport: (type: string, file: { name: string; body: Blob | string; kind: 'csv' | 'json' }, encoding?: string) =>
    call<Import>(
      'POST',
      `/api/imports?type=${at(type)}&name=${at(file.name)}${encoding ? `&encoding=${encoding}` : ''}`,
      new Raw(file.body),
      { 'Content-Type': file.kind === 'csv' ? 'text/csv' : 'application/json' },
    ),
  actOnImport: (
    number: number,
    act: { act: 'try'; matching: Record<string, string>; key: string | null } | { act: 'run' | 'stop' | 'undo' },
  ) => call<Import>('POST', `/api/imports/${number}`, act),
  outside: () => call<{ lists: OutsideList[] }>('GET', '/api/outside'),
  saveOutside: (type: string, body: OutsideBody) => call<OutsideList>('PUT', `/api/outside/${at(type)}`, body),
  tryOutside: (type: string, body: OutsideBody) =>
    call<{ problem: string | null; total: number; rows: Record<string, unknown>[] }>(
      'POST',
      `/api/outside/${at(type)}/try`,
      body,
    ),
  refreshOutside: (type: string) =>
    call<{ list: OutsideList; import: number | null }>('POST', `/api/outside/${at(type)}/refresh`, {}),
  deleteOutside: (type: string) => call<void>('DELETE', `/api/outside/${at(type)}`),
  lastCheck: () => call<{ check: LineCheck | null }>('GET', '/api/checks'),
  beginCheck: (mends: boolean) => call<{ check: LineCheck }>('POST', '/api/checks', { mends }),
  stopCheck: () => call<void>('DELETE', '/api/checks'),
  reports: (type: string, query: string) => call<Reports>('GET', `/api/reports/${at(type)}?${query}`),
  conversion: (type: string, tree: unknown) =>
    call<{ fields: ConvertedField[] }>('POST', `/api/draft/types/${at(type)}/conversion`, { tree }),
  keepAsSample: (id: string, run: number | null, nameless = false) =>
    call<SavedPart>('POST', `/api/tickets/${at(id)}/sample`, { run, nameless }),
  run: (run: number) => call<RunWithTrace>('GET', `/api/runs/${run}`),
  runs: (query: string) =>
    call<{ runs: LoggedRun[]; names: Record<string, string>; next: number | null }>('GET', `/api/runs?${query}`),
  runsByRule: (days: number) => call<{ days: number; rules: RuleCount[] }>('GET', `/api/runs/by-rule?days=${days}`),
  messages: (before: number | null) =>
    call<{ messages: Incoming[]; next: number | null }>('GET', `/api/messages${before ? `?before=${before}` : ''}`),
  receive: (of: { from: string; subject: string; text?: string; html?: string; about?: string; opens?: string }) =>
    call<{ ticket: TicketRecord; opened: boolean }>('POST', '/api/messages', of),
  outgoing: (query: string) => call<{ outgoing: Outgoing[]; next: number | null }>('GET', `/api/outgoing?${query}`),
  answerCall: (number: number, of: { status: number | null; body: string | null }) =>
    call<Outgoing>('POST', `/api/outgoing/${number}/answer`, of),
  addresses: () => call<{ addresses: AllowedAddress[] }>('GET', '/api/addresses'),
  allowAddress: (of: { address: string; inside: boolean; stand_in: boolean; credentials: string | null }) =>
    call<{ addresses: AllowedAddress[] }>('POST', '/api/addresses', of),
  forbidAddress: (id: number) => call<{ addresses: AllowedAddress[] }>('DELETE', `/api/addresses/${id}`),
  seeNotices: (notice: number | null) => call<{ notices: Notice[] }>('POST', '/api/notices/seen', { notice }),
  byHand: (rule: string, tickets: string[], inputs: Record<string, unknown>) =>
    call<{ fates: Fate[] }>('POST', '/api/tickets/by-hand', { rule, tickets, inputs }),
  fitRule: (key: string, tree: unknown) => call<RuleFit>('POST', '/api/rules/fit', { key, tree }),
  tryRule: (key: string, tree: unknown, record: string, changed: string | null) =>
    call<RuleTrial>('POST', '/api/rules/try', { key, tree, record, changed }),
};
