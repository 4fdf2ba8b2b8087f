import { useQuery } from '@tanstack/react-query';
import { api } from '../../api/client';
import { useMaybeWorkshop } from '../../app/workshop';

/** What can be said of the draft without running it; asked anew after each saved edit. */
export function useFindings() {
  const stamp = useMaybeWorkshop()?.stamp ?? '';
  return useQuery({
    queryKey: ['findings', stamp],
    queryFn: api.findings,
    enabled: stamp !== '',
    placeholderData: (old) => old,
  });
}
