// Marks where the run noticed something.
import { useMemo, type ReactNode } from 'react';
import { useTheme } from 'styled-components';
import { firstOfEach } from '@bramblemist/core/readings/incidents';
import { useLive } from '../live/use-live';

export function NoticedPlaces({ edge }: { edge: number }): ReactNode {
  const theme = useTheme(),
    notices = useLive((s) => s.notices),
    places = useMemo(
      () => firstOfEach(notices).flatMap((n) => (n.first.placeM ? [{ kind: n.first.kind, at: n.first.placeM }] : [])),
      [notices],
    );
  return places.map(({ kind, at }) => (
    <mesh key={kind} position={at} raycast={() => null} renderOrder={3}>
      <octahedronGeometry args={[edge * 0.035]} />
      <meshBasicMaterial color={theme.rust} wireframe depthTest={false} transparent />
    </mesh>
  ));
}
