import { useQuery } from '@tanstack/react-query';
import { api, type Mention } from '../api/client';
import { useWorkshop } from '../app/workshop';

/** Every place of the saved draft that names a field or an option; undefined until it is known. */
export function useMentions(): Mention[] | undefined {
  const { stamp } = useWorkshop();
  const { data } = useQuery({ queryKey: ['mentions', stamp], queryFn: api.mentions, placeholderData: (old) => old });
  return data?.mentions;
}
