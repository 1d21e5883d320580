// The window while handing over: the contact sheet that goes out.
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { routes } from '@bramblemist/contracts/routes';
import type { StageProps } from '../context';
import { picturesKey } from './own-packing';

const Sheet = styled.div`
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  padding: 16px 16px 16px 56px;
  background: ${({ theme }) => theme.surround};
  img {
    max-width: 100%;
    max-height: 100%;
    object-fit: contain;
    min-height: 0;
  }
  p {
    color: #f2f0f1;
  }
`;

export function ContactSheet(props: StageProps & { bakeId: number }): ReactNode {
  const { bakeId, shot } = props;
  const [state, setState] = useState<'coming' | 'there' | 'none'>('coming');
  const of = `${bakeId} ${props.bake?.frames.length} ${picturesKey(props)}`;
  return (
    <Sheet>
      {state !== 'there' && (
        <p role="status">
          {state === 'coming'
            ? 'The contact sheet is being made …'
            : 'There are no pictures for a contact sheet yet: render the bake in Light.'}
        </p>
      )}
      <img
        key={of}
        src={routes.contactSheet(bakeId, of)}
        alt={`Contact sheet of ${shot.name}`}
        hidden={state !== 'there'}
        onLoad={() => setState('there')}
        onError={() => setState('none')}
      />
    </Sheet>
  );
}
