import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api } from '../../api/client';
import { moment } from '../../app/desk';
import { useWorkshop } from '../../app/workshop';

/** In which editions a rule was added, changed or moved, and the note that came with each. */
export function RuleHistory({ rule }: { rule: string }) {
  const { draft, lexicon } = useWorkshop();
  const { data } = useQuery({ queryKey: ['editions'], queryFn: api.editions });
  const mine = (data?.editions ?? []).flatMap((edition) =>
    edition.changes.filter((c) => c.kind === 'rules' && c.key === rule).map((change) => ({ edition, change })),
  );
  const pending = draft.changes.filter((c) => c.kind === 'rules' && c.key === rule);
  return (
    <>
      <h2 className="mt-3 mb-1">What became of it</h2>
      <ul className="text-[13px]" data-test="rule-history">
        {pending.map((change) => (
          <li key={change.what}>
            {change.what} in the draft <span className="soft">not published</span>
          </li>
        ))}
        {mine.map(({ edition, change }) => (
          <li key={`${edition.number} ${change.what}`}>
            <Link className="link leading-6" to={`/editions/${edition.number}`}>
              {change.what} in edition {edition.number}
            </Link>{' '}
            <span className="soft">
              by {lexicon.person(edition.published_by)}, {moment(edition.published_at, draft.timezone).short}:{' '}
              {edition.note}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
