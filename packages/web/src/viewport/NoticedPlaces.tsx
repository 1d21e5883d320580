// Marks where the run noticed something.
import type { ReactNode } from 'react';
import { useTheme } from 'styled-components';
import type { Incident } from '@bramblemist/core/record/incident';

export function NoticedPlaces({
  edge,
  noticed,
}: {
  edge: number;
  noticed: readonly { readonly first: Incident }[];
}): ReactNode {
  const theme = useTheme();
  return noticed.map(
    ({ first: { kind, placeM } }) =>
      placeM && (
        <mesh key={kind} position={placeM} raycast={() => null} renderOrder={3}>
          <octahedronGeometry args={[edge * 0.035]} />
          <meshBasicMaterial color={theme.rust} wireframe depthTest={false} transparent />
        </mesh>
      ),
  );
}
