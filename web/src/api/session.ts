import { create } from 'zustand';

interface Session {
  /** Whose page this is: the name that is signed in with. */
  user: string;
  /** Nobody is signed in any more, or somebody else is; what this page sends is not taken. */
  ended: boolean;
  set: (change: Partial<Omit<Session, 'set'>>) => void;
}

/** Whether this page may still speak for the person it was opened by. */
export const useSession = create<Session>((set) => ({ user: '', ended: false, set }));

export const endSession = () => useSession.getState().set({ ended: true });
