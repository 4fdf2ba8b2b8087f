import { useQueryClient } from '@tanstack/react-query';
import { DropdownMenu } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Link, NavLink, useNavigate } from 'react-router';
import { api } from '../api/client';
import { fieldsOf, type TypeTree } from '../api/trees';
import { Mark } from '../parts/Mark';
import { useFindings } from '../screens/prove/useFindings';
import { useDesk } from './desk';
import { useKeys } from './keys';
import { useLive } from './live';
import { Palette } from './Palette';
import { PublishDialog } from './PublishDialog';
import { SampleBar } from './SampleBar';
import { ShortcutsDialog } from './ShortcutsDialog';
import { useMay, usePerson, useSignOut } from './session';
import { TokensDialog } from './TokensDialog';
import { useMaybeWorkshop } from './workshop';

const fieldCount = (types: TypeTree[]): number => types.reduce((sum, type) => sum + fieldsOf(type).length, 0);

function Rail() {
  const shop = useMaybeWorkshop();
  const desk = useDesk();
  const findings = useFindings().data?.findings.filter((f) => !f.accepted && f.weight !== 'note').length;
  const entry = (to: string, label: string, count?: number | null) => (
    <NavLink to={to}>
      {label}
      {count !== undefined && count !== null && <span>{count}</span>}
    </NavLink>
  );
  const heading = (text: string) => <h2 className="px-4 pt-3 pb-1">{text}</h2>;
  return (
    <nav className="rail overflow-y-auto border-r border-line py-1" aria-label="Screens">
      {shop && (
        <>
          {heading('Describe')}
          {entry('/fields', 'Fields', fieldCount(shop.types))}
          {entry('/registers', 'Registers', shop.types.filter((t) => t.kind === 'register').length)}
          {entry('/tables', 'Tables', shop.tables.length)}
          {heading('Decide')}
          {entry('/rulebook', 'Rulebook', shop.rules.length)}
          {entry('/guards', 'Guards', shop.guards.length)}
          {entry('/mirrors', 'Mirrors', shop.mirrors.length)}
          {heading('Prove')}
          {entry('/samples', 'Samples', shop.samples.length)}
          {entry('/findings', 'Findings', findings)}
          {entry('/impact', 'Impact')}
          {heading('Release')}
          {entry('/editions', 'Editions', shop.draft.edition)}
        </>
      )}
      {heading('Desk')}
      {entry('/tickets', 'Tickets', desk?.desk.tickets)}
      {entry('/inbox', 'Inbox')}
      {entry('/runs', 'Runs')}
      {entry('/reports', 'Reports')}
      {entry('/ask', 'Ask')}
      {!shop && entry('/registers', 'Registers')}
    </nav>
  );
}

function ReplayLight() {
  const shop = useMaybeWorkshop();
  if (!shop?.replay) return null;
  const { agrees, differs, broken } = shop.replay.totals;
  return (
    <Link
      to="/rulebook"
      className="flex gap-2 whitespace-nowrap"
      title="What the samples come to"
      data-test="replay-light"
    >
      <span className="font-semibold text-teal">✓ {agrees}</span> agree
      {differs > 0 && (
        <>
          <span className="font-semibold text-red">≠ {differs}</span> {differs === 1 ? 'differs' : 'differ'}
        </>
      )}
      {broken > 0 && (
        <>
          <span className="font-semibold text-red">✕ {broken}</span> broken
        </>
      )}
    </Link>
  );
}

/** Watched tickets on which others did something. */
function NewsList() {
  const { news, notices } = useLive(true);
  const desk = useDesk();
  const client = useQueryClient();
  const seen = async (notice: number | null) => {
    await api.seeNotices(notice);
    await client.invalidateQueries({ queryKey: ['changes'] });
  };
  if (news.length + notices.length === 0) return null;
  const count = (n: number, one: string, many: string) => (n === 0 ? [] : [`${n} ${n === 1 ? one : many}`]);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="link mr-4" data-test="news">
        News {news.length + notices.length}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="menu max-h-[70vh] w-[380px] overflow-auto" align="end" sideOffset={4}>
          {notices.map((notice) => (
            <DropdownMenu.Item
              key={`notice ${notice.notice}`}
              className="menu-item"
              data-test="notice"
              onSelect={() => void seen(notice.notice)}
              asChild
            >
              <Link
                to={
                  notice.problem && notice.rule
                    ? `/runs?rule=${notice.rule}&only=problems`
                    : notice.record
                      ? `/tickets/${notice.record}`
                      : '/runs'
                }
              >
                <span className="min-w-0">
                  <span className={`line-clamp-2 ${notice.problem ? 'text-red' : ''}`}>
                    {notice.problem ? '✕ ' : '◆ '}
                    {notice.text}
                  </span>
                  <span className="soft block truncate text-[12.5px]">
                    {notice.record && <span className="mono">{notice.record} </span>}
                    {notice.rule && desk?.rule(notice.rule)}
                    {notice.times > 1 && `, ${notice.times} times`}
                  </span>
                </span>
              </Link>
            </DropdownMenu.Item>
          ))}
          {notices.length > 1 && (
            <DropdownMenu.Item className="menu-item soft" onSelect={() => void seen(null)}>
              All of these have been read
            </DropdownMenu.Item>
          )}
          {news.map((item) => (
            <DropdownMenu.Item key={item.id} className="menu-item" asChild>
              <Link to={`/tickets/${item.id}`}>
                <span className="truncate">
                  <span className="mono soft">{item.id}</span> {item.name}
                </span>
                <span className="soft whitespace-nowrap">
                  {[...count(item.changes, 'change', 'changes'), ...count(item.notes, 'note', 'notes')].join(', ')}
                </span>
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Strip({
  onPalette,
  onPublish,
  onKeys,
  onTokens,
}: {
  onPalette: () => void;
  onPublish: () => void;
  onKeys: () => void;
  onTokens: () => void;
}) {
  const shop = useMaybeWorkshop();
  const desk = useDesk();
  const person = usePerson();
  const signOut = useSignOut();
  const publishes = useMay('publisher');
  const changes = shop?.draft.changes.length ?? 0;
  return (
    <header className="col-span-2 flex items-center border-b border-line">
      <Link to="/" className="flex w-[168px] items-center gap-2 px-4 text-[17px] font-bold tracking-tight">
        <Mark /> sorvel
      </Link>
      <b className="mr-4 border-r border-line pr-4 whitespace-nowrap">{shop?.draft.title ?? desk?.desk.title}</b>
      {shop && (
        <span className="mr-5 whitespace-nowrap" data-test="draft-state">
          <span className="soft">Draft </span>
          {changes === 0 ? (
            <span className="soft">is edition {shop.draft.edition}</span>
          ) : (
            <>
              <b>
                {changes} {changes === 1 ? 'change' : 'changes'}
              </b>
              <span className="soft"> on edition {shop.draft.edition}</span>
            </>
          )}
        </span>
      )}
      <ReplayLight />
      <span className="flex-1" />
      <NewsList />
      <button
        type="button"
        className="field mr-3 flex w-[218px] items-center justify-between text-soft"
        onClick={onPalette}
      >
        Go anywhere … <span className="key">Ctrl K</span>
      </button>
      {shop && publishes && (
        <button type="button" className="btn mr-3" disabled={changes === 0} onClick={onPublish}>
          Publish edition {(shop.draft.edition ?? 0) + 1}
        </button>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className="mr-3 grid size-7 place-items-center rounded-xs bg-ink text-[12px] font-semibold text-paper"
          aria-label={`Signed in as ${person.name}`}
        >
          {person.name
            .split(' ')
            .map((word) => word[0])
            .join('')
            .slice(0, 2)}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className="menu" align="end" sideOffset={4}>
            <DropdownMenu.Label className="px-3 py-1">
              <b>{person.name}</b>
              <br />
              <span className="soft">{person.role}</span>
            </DropdownMenu.Label>
            {shop && (
              <>
                <DropdownMenu.Item className="menu-item" onSelect={onTokens}>
                  Tokens for machines
                </DropdownMenu.Item>
                <DropdownMenu.Item className="menu-item" asChild>
                  <Link to="/formulas">Help: formulas</Link>
                </DropdownMenu.Item>
                <DropdownMenu.Item className="menu-item" asChild>
                  <a href="/api/rulebook.yaml">Rulebook as a file</a>
                </DropdownMenu.Item>
                <DropdownMenu.Item className="menu-item" asChild>
                  <a href="/api/samples.yaml">Samples as a file</a>
                </DropdownMenu.Item>
              </>
            )}
            <DropdownMenu.Item className="menu-item" onSelect={onKeys}>
              Keys <span className="key">?</span>
            </DropdownMenu.Item>
            <DropdownMenu.Item className="menu-item" onSelect={() => void signOut()}>
              Sign out
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </header>
  );
}

const PLACES: Record<string, string> = {
  f: '/fields',
  b: '/tables',
  i: '/registers',
  r: '/rulebook',
  d: '/guards',
  m: '/mirrors',
  s: '/samples',
  v: '/findings',
  e: '/editions',
  t: '/tickets',
  n: '/inbox',
  l: '/runs',
  p: '/reports',
  a: '/ask',
};

export function Frame({ children }: { children: ReactNode }) {
  const shop = useMaybeWorkshop();
  const navigate = useNavigate();
  const [palette, setPalette] = useState(false);
  const [publishing, setPublishing] = useState(false);
  const [shortcuts, setShortcuts] = useState(false);
  const [tokens, setTokens] = useState(false);
  const [trace, setTrace] = useState(false);
  const [going, setGoing] = useState(false);
  const near = (by: number) => {
    if (!shop?.inHand || shop.samples.length === 0) return;
    const at = shop.samples.findIndex((s) => s.part.key === shop.inHand?.part.key);
    const next = shop.samples[(at + by + shop.samples.length) % shop.samples.length];
    if (next) shop.takeInHand(next.part.key);
  };
  const letter = (key: string, otherwise: () => void) => () => {
    const place = PLACES[key];
    if (going && place) {
      setGoing(false);
      navigate(place);
    } else otherwise();
  };
  const bindings: Record<string, () => void> = {
    'Ctrl+k': () => setPalette(true),
    '?': () => setShortcuts(true),
    '[': () => near(-1),
    ']': () => near(1),
    '/': () => document.querySelector<HTMLInputElement>('[data-filter]')?.focus(),
    g: () => {
      setGoing(true);
      setTimeout(() => setGoing(false), 1500);
    },
    r: letter('r', () => shop?.replayAll()),
    t: letter('t', () => shop && setTrace((open) => !open)),
  };
  if (going)
    for (const key of ['v', 'f', 'b', 'i', 'd', 'm', 's', 'e', 'n', 'l', 'p', 'a'])
      bindings[key] = letter(key, () => {});
  useKeys(bindings);
  return (
    <div className="frame">
      <Strip
        onPalette={() => setPalette(true)}
        onPublish={() => setPublishing(true)}
        onKeys={() => setShortcuts(true)}
        onTokens={() => setTokens(true)}
      />
      <Rail />
      <div className="relative min-w-0 overflow-hidden">{children}</div>
      {shop && <SampleBar open={trace} onOpen={setTrace} />}
      <Palette open={palette} onOpen={setPalette} onPublish={() => setPublishing(true)} />
      {shop && <PublishDialog open={publishing} onOpen={setPublishing} />}
      <ShortcutsDialog open={shortcuts} onOpen={setShortcuts} />
      {shop && <TokensDialog open={tokens} onOpen={setTokens} />}
    </div>
  );
}
