// The reference, lined up with the shot's camera.
import type { ReactNode } from 'react';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import type { Look } from '@bramblemist/core/look/look';
import { OnFrame } from '../window/FrameLines';
import { useReferencePicture } from './use-reference';

export function ReferenceOnFrame({ shot, look }: { shot: ShotInfo; look: Look }): ReactNode {
  const picture = useReferencePicture(shot);
  if (!picture) return null;
  const { place = 'beside', opacity = 0.5 } = shot.reference;
  return (
    <OnFrame look={look} lines={false}>
      <img
        src={picture.src}
        alt={`Reference ${picture.name}`}
        style={{
          position: 'absolute',
          inset: 0,
          width: '100%',
          height: '100%',
          objectFit: 'fill',
          opacity: place === 'under' ? 1 : opacity,
        }}
      />
    </OnFrame>
  );
}
