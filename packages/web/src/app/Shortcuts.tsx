// The page of shortcuts: what each key does, to be changed by pressing another.
import { useEffect, useState, type ReactNode } from 'react';
import { Dialog, Heading } from 'react-aria-components';
import styled from 'styled-components';
import { Sheet, Veil } from '../parts/sheet';
import { Plain, Quiet, Trouble } from '../parts/ui';
import { ACTIONS, FIXED, giveKeys, keysAsAtFirst, pressed, useKeys, type ActionId } from './actions';

const Keys = styled.dl`
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 5px 18px;
  margin: 0 0 12px;
  dt {
    font-weight: 600;
    white-space: nowrap;
  }
  dd {
    margin: 0;
  }
`;

const Given = styled(Plain)`
  font-weight: 600;
`;

export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }): ReactNode {
  const keys = useKeys((s) => s.keys);
  const [asks, setAsks] = useState<ActionId | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  useEffect(() => {
    if (asks === null) return;
    const onKey = (e: KeyboardEvent): void => {
      e.preventDefault();
      e.stopPropagation();
      if (e.key === 'Escape') return setAsks(null);
      const now = pressed(e);
      if (now === '') return;
      setRefused(giveKeys(asks, now));
      setAsks(null);
    };

    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, [asks]);
  return (
    <Veil
      isOpen={open}
      onOpenChange={(is) => !is && onClose()}
      isDismissable
      isKeyboardDismissDisabled={asks !== null}
    >
      <Sheet>
        <Dialog aria-label="Shortcuts">
          <Heading slot="title">Shortcuts</Heading>
          <Keys>
            {ACTIONS.map(({ id, does }) => (
              <div key={id} style={{ display: 'contents' }}>
                <dt>
                  <Given
                    aria-label={`Keys for: ${does}`}
                    onPress={() => {
                      setRefused(null);
                      setAsks(id);
                    }}
                  >
                    {asks === id ? 'press keys …' : keys[id].replaceAll('+', '-')}
                  </Given>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
            {FIXED.map(([k, does]) => (
              <div key={k} style={{ display: 'contents' }}>
                <dt>{k}</dt>
                <dd>{does}</dd>
              </div>
            ))}
          </Keys>
          {refused && <Trouble>{refused}</Trouble>}
          <Quiet>
            Press a key’s name to give it another. <Plain onPress={keysAsAtFirst}>all as at first</Plain>
          </Quiet>
        </Dialog>
      </Sheet>
    </Veil>
  );
}
