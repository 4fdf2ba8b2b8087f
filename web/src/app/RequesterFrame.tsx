import { DropdownMenu } from 'radix-ui';
import { lazy, Suspense } from 'react';
import { Link, Navigate, Route, Routes } from 'react-router';
import { Mark } from '../parts/Mark';
import { usePerson, useSignOut } from './session';

const Ask = lazy(() => import('../screens/ask/Ask'));

/** What a requester has of the application: the forms and their own tickets. */
export function RequesterFrame() {
  const person = usePerson();
  const signOut = useSignOut();
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-[44px] items-center border-b border-line">
        <Link to="/ask" className="flex items-center gap-2 px-4 text-[17px] font-bold tracking-tight">
          <Mark /> sorvel
        </Link>
        <span className="flex-1" />
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="mr-3 px-2 py-1 hover:bg-faint" aria-label={`Signed in as ${person.name}`}>
            {person.name} ▾
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="menu" align="end" sideOffset={4}>
              <DropdownMenu.Item className="menu-item" onSelect={() => void signOut()}>
                Sign out
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </header>
      <div className="min-h-0 flex-1">
        <Suspense fallback={null}>
          <Routes>
            <Route path="/ask" element={<Ask />} />
            <Route path="/ask/:id" element={<Ask />} />
            <Route path="*" element={<Navigate to="/ask" replace />} />
          </Routes>
        </Suspense>
      </div>
    </div>
  );
}
