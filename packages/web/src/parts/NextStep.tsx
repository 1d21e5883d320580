// The one next step of a stage: said by the stage, shown at the reel's left.
import { useCallback, type ReactNode } from 'react';
import { createPortal } from 'react-dom';
import styled from 'styled-components';
import { create } from 'zustand';

const useSlot = create<{ readonly slot: HTMLElement | null }>(() => ({ slot: null }));

const Slot = styled.div`
  width: fit-content;
  margin-top: 4px;
  max-width: 100%;
  > [role='alert'] {
    max-height: 60px;
    overflow: auto;
  }
`;

/** Where it is shown. */
export function NextStepSlot(): ReactNode {
  const keep = useCallback((slot: HTMLElement | null) => useSlot.setState({ slot }), []);
  return <Slot ref={keep} data-next-step />;
}

/** What a stage says: a primary button, and what went wrong with it. */
export function NextStep({ children }: { children: ReactNode }): ReactNode {
  const slot = useSlot((s) => s.slot);
  return slot && createPortal(children, slot);
}
