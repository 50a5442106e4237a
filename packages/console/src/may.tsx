import type { MeAnswer } from '@monsoon/contract';
import { createContext, useContext } from 'react';

/** Who is signed in. What they may not do is shown, and cannot be pressed: the service decides, the console only says so first. */
export const Me = createContext<MeAnswer>({ id: '', email: '', name: '', role: 'viewer', mustChangePassword: false });
export const useMe = (): MeAnswer => useContext(Me);

export type Needs = 'operate' | 'administer' | { owner: string | null };

/** @param needs what an action asks: a role, or being the owner of a lane */
export function useMay(needs: Needs | undefined): boolean {
  const me = useMe();
  if (needs === undefined || me.role === 'administrator') return true;
  if (me.role === 'viewer') return false;
  return needs === 'operate' || (typeof needs === 'object' && needs.owner === me.email);
}

export const whyNot = (needs: Needs | undefined): string =>
  needs === 'operate' ? 'Only operators and administrators may do this.' : 'Only an administrator, or the owner of the lane, may do this.';
