import type { RuleStatus } from '../api/client';

/** How far a rule got, as a mark and in words. */
export function mark(status: RuleStatus | undefined): { sign: string; words: string; tone: string } {
  switch (status) {
    case 'acted':
      return { sign: '◆', words: 'acted', tone: '' };
    case 'no_effect':
      return { sign: '◈', words: 'acted, nothing left to change', tone: '' };
    case 'looked':
      return { sign: '◇', words: 'looked, did not act', tone: 'soft' };
    case 'problem':
    case 'problem_before':
      return { sign: '✕', words: 'problem', tone: 'text-red' };
    default:
      return { sign: '·', words: 'not due', tone: 'soft' };
  }
}
