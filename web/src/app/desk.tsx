import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { api, type Desk } from '../api/client';
import type { TypeTree } from '../api/trees';
import { Lexicon } from './lexicon';

export interface DeskView {
  desk: Desk;
  types: TypeTree[];
  lexicon: Lexicon;
  rule: (key: string | null) => string;
  /** What a field is always kept equal to, in words; null when people may set it. */
  mirrored: (type: string, field: string) => string | null;
}

/** The edition in force, as the desk works with it. */
export function useDesk(): DeskView | undefined {
  const { data: desk } = useQuery({ queryKey: ['desk'], queryFn: api.desk });
  return useMemo(() => {
    if (!desk) return undefined;
    const types = desk.types as unknown as TypeTree[];
    const rules = new Map(desk.rules.map((rule) => [rule.key, `${rule.number} ${rule.title}`]));
    return {
      desk,
      types,
      lexicon: new Lexicon(types, desk.people, desk.teams, {}, desk.timezone),
      mirrored: (type: string, field: string) => {
        const mirror = desk.mirrors.find((m) => m.field === field && [m.on].flat().includes(type));
        return mirror ? `Kept equal to ${mirror.from}.` : null;
      },
      rule: (key: string | null) => (key === null ? '' : (rules.get(key) ?? key)),
    };
  }, [desk]);
}

const DAY = 86_400_000;

/** When, as people say it; the exact moment is the title. */
export function moment(iso: string, zone: string): { short: string; exact: string } {
  const at = new Date(iso);
  const format = (options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options }).format(at);
  const exact = format({ dateStyle: 'full', timeStyle: 'medium' });
  const age = Date.now() - at.getTime();
  const minutes = Math.round(age / 60_000);
  if (age < 0 || age > 6 * DAY)
    return {
      short: format({ day: 'numeric', month: 'short', ...(age > 300 * DAY ? { year: 'numeric' } : {}) }),
      exact,
    };
  if (minutes < 1) return { short: 'just now', exact };
  if (minutes < 60) return { short: `${minutes} min ago`, exact };
  if (age < DAY) return { short: `${Math.round(minutes / 60)} h ago`, exact };
  return { short: format({ weekday: 'short', hour: '2-digit', minute: '2-digit' }), exact };
}
