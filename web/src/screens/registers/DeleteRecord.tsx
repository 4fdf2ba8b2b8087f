import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, Problem, type TicketRecord } from '../../api/client';
import type { TypeTree } from '../../api/trees';
import type { Lexicon } from '../../app/lexicon';

/** Asks once, naming what goes; what others refer to stays, and they are named. */
export function DeleteRecord({
  type,
  record,
  lexicon,
  onProblem,
}: {
  type: TypeTree;
  record: TicketRecord;
  lexicon: Lexicon;
  onProblem: (problem: Problem) => void;
}) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const name = String(record.values[type.name_field ?? 'title'] ?? lexicon.records[record.id] ?? record.id);
  if (!asking)
    return (
      <button type="button" className="link" onClick={() => setAsking(true)}>
        Delete
      </button>
    );
  return (
    <span className="flex items-center gap-2">
      Delete {name} for good?
      <button
        type="button"
        className="btn"
        onClick={async () => {
          setAsking(false);
          try {
            if (type.kind === 'ticket') await api.deleteTicket(record.id, record.version);
            else await api.deleteRecord(type.key, record.id, record.version);
            for (const key of ['register', 'registers', 'tickets', 'desk'])
              void client.invalidateQueries({ queryKey: [key] });
            navigate(type.kind === 'ticket' ? '/tickets' : `/registers/${type.key}`);
          } catch (error) {
            onProblem(Problem.of(error));
          }
        }}
      >
        Delete
      </button>
      <button type="button" className="btn" onClick={() => setAsking(false)}>
        Keep
      </button>
    </span>
  );
}
