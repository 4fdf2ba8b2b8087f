import { Link } from 'react-router';
import type { Mention } from '../../api/client';
import { typesOf } from '../../api/trees';
import { sayGuard } from '../../app/sayGuard';
import { useWorkshop } from '../../app/workshop';
import { useMentions } from '../../parts/useMentions';

export interface User {
  to: string;
  label: string;
}

export function Users({ list, most = 99 }: { list: User[]; most?: number }) {
  const rest = list.slice(most);
  if (list.length === 0) return <span className="soft">–</span>;
  return (
    <>
      {list.slice(0, most).map((user, i) => (
        <span key={user.to}>
          {i > 0 && ', '}
          <Link to={user.to} className="hover:underline" title={user.label}>
            {list.length > 1 ? user.label.replace(/^(\d+) .*$/, '$1') : user.label}
          </Link>
        </span>
      ))}
      {rest.length > 0 && (
        <span className="soft" title={rest.map((user) => user.label).join('\n')}>
          {' '}
          and {rest.length} more
        </span>
      )}
    </>
  );
}

/** Who reads and who writes each field, in running order. */
export function useUsers(): {
  mentions: Mention[];
  /** Until it is, nothing may be said to be unused. */
  isKnown: boolean;
  users: (type: string, field: string, writes: boolean) => User[];
  ofOption: (type: string, field: string, option: string) => User[];
} {
  const { types, rules, tables, guards, mirrors, lexicon } = useWorkshop();
  const known = useMentions();
  const mentions = known ?? [];
  const order = new Map<string, User & { place: number }>([
    ...rules.map(({ tree }, i) => {
      const user = { to: `/rulebook/${tree.key}`, label: `${i + 1} ${tree.title}`, place: i };
      return [`rules ${tree.key}`, user] as const;
    }),
    ...tables.map(({ tree }, i) => {
      const user = { to: `/tables/${tree.key}`, label: tree.title, place: rules.length + i };
      return [`tables ${tree.key}`, user] as const;
    }),
    ...guards.map(({ tree }, i) => {
      const user = { to: `/guards/${tree.key}`, label: `guard: ${sayGuard(tree, lexicon)}`, place: 1000 + i };
      return [`guards ${tree.key}`, user] as const;
    }),
    ...mirrors.map(({ tree }, i) => {
      const label = `mirror of ${lexicon.label(typesOf(tree), tree.field).toLowerCase()}`;
      return [`mirrors ${tree.key}`, { to: `/mirrors/${tree.key}`, label, place: 2000 + i }] as const;
    }),
    ...types.map((type, i) => {
      const label = `derived fields of ${type.title.toLowerCase()}`;
      return [`types ${type.key}`, { to: '/fields?q=derived', label, place: 3000 + i }] as const;
    }),
  ]);
  const users = (type: string, field: string, writes: boolean): User[] => {
    const found = mentions
      .filter((m) => m.type === type && m.field === field && m.option === null && m.writes === writes)
      .flatMap((m) => order.get(`${m.kind} ${m.key}`) ?? []);
    return [...new Set(found)].sort((one, other) => one.place - other.place);
  };
  const ofOption = (type: string, field: string, option: string): User[] => {
    const found = mentions
      .filter((m) => m.type === type && m.field === field && m.option === option)
      .flatMap((m) => order.get(`${m.kind} ${m.key}`) ?? []);
    return [...new Set(found)].sort((one, other) => one.place - other.place);
  };
  return { mentions, isKnown: known !== undefined, users, ofOption };
}
