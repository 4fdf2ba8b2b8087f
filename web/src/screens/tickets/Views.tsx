import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dialog, DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { api, Problem, type SavedView } from '../../api/client';
import { ProblemNote } from '../../parts/ProblemNote';

/** What of an address makes a view. */
export const viewQuery = (search: URLSearchParams): string => {
  const kept = new URLSearchParams();
  for (const key of ['type', 'q', 'sort', 'lines', 'columns']) {
    const value = search.get(key);
    if (value) kept.set(key, value);
  }
  return kept.toString();
};

/** Saved views: picked by name, changed, shared and removed by whoever made them. */
export function Views({ search, onOpen }: { search: URLSearchParams; onOpen: (query: string, view: number) => void }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['views'], queryFn: api.views });
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState('');
  const [shared, setShared] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const views = data?.views ?? [];
  const now = views.find((v) => String(v.view) === search.get('view'));
  const query = viewQuery(search);
  const isChanged = now !== undefined && now.query !== query;
  const again = () => client.invalidateQueries({ queryKey: ['views'] });
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setProblem(null);
      await again();
    } catch (error) {
      setProblem(Problem.of(error));
    }
  };
  const item = (view: SavedView) => (
    <DropdownMenu.Item key={view.view} className="menu-item" onSelect={() => onOpen(view.query, view.view)}>
      {view.name} {!view.own && <span className="soft">by {view.by}</span>}
      {view.own && view.shared && <span className="soft">shared</span>}
    </DropdownMenu.Item>
  );
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="pick font-semibold" aria-label="Views">
          {now ? now.name : 'All tickets'}
          {isChanged && <span className="soft font-normal"> changed</span>} ▾
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content className="menu" align="start" sideOffset={2}>
            <DropdownMenu.Item className="menu-item" onSelect={() => onOpen('', 0)}>
              All tickets
            </DropdownMenu.Item>
            {views.map(item)}
            <DropdownMenu.Separator className="my-1 border-t border-line" />
            <DropdownMenu.Item className="menu-item" onSelect={() => setNaming(true)}>
              Save this list as a view …
            </DropdownMenu.Item>
            {now?.own && isChanged && (
              <DropdownMenu.Item
                className="menu-item"
                onSelect={() => void act(() => api.changeView(now.view, { name: now.name, query, shared: now.shared }))}
              >
                Keep the changes in “{now.name}”
              </DropdownMenu.Item>
            )}
            {now?.own && (
              <DropdownMenu.Item
                className="menu-item"
                onSelect={() =>
                  void act(() => api.changeView(now.view, { name: now.name, query: now.query, shared: !now.shared }))
                }
              >
                {now.shared ? 'Share it no longer' : 'Share it with everybody here'}
              </DropdownMenu.Item>
            )}
            {now?.own && (
              <DropdownMenu.Item
                className="menu-item"
                onSelect={() => void act(() => api.deleteView(now.view)).then(() => onOpen(query, 0))}
              >
                Remove the view “{now.name}”
              </DropdownMenu.Item>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Dialog.Root open={naming} onOpenChange={setNaming}>
        <Dialog.Portal>
          <Dialog.Overlay className="dialog-over" />
          <Dialog.Content className="dialog max-w-[360px]" aria-describedby={undefined} data-test="name-view">
            <Dialog.Title className="mb-2 text-[17px] font-bold">Save this list as a view</Dialog.Title>
            <form
              onSubmit={(e) => {
                e.preventDefault();
                void act(async () => {
                  const made = await api.addView({ name, query, shared });
                  setNaming(false);
                  setName('');
                  onOpen(query, made.view);
                });
              }}
            >
              <label className="block">
                <span className="soft">Name of the view</span>
                {/* biome-ignore lint/a11y/noAutofocus: it has just been asked for */}
                <input className="field w-full" autoFocus value={name} onChange={(e) => setName(e.target.value)} />
              </label>
              <label className="mt-2 flex gap-2">
                <input type="checkbox" checked={shared} onChange={(e) => setShared(e.target.checked)} /> for everybody
                here
              </label>
              <ProblemNote problem={problem} />
              <button type="submit" className="btn btn-main mt-3">
                Save view
              </button>
            </form>
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}
