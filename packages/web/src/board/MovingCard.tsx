// A shot's newest picture, which moves while the card is pointed at or has the focus.
import { useEffect, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { ShotCard } from '@bramblemist/contracts/payloads/board';

const PICTURES_A_SECOND = 6;

const Frame = styled.div`
  position: relative;
  aspect-ratio: 16 / 9;
  background: ${({ theme }) => theme.surround};
  overflow: hidden;
  img {
    display: block;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  span {
    position: absolute;
    inset: 0;
    display: grid;
    place-items: center;
    color: ${({ theme }) => theme.text};
  }
`;

const stillsOnly = (): boolean => window.matchMedia('(prefers-reduced-motion: reduce)').matches;

/** The pictures of a loop as they come; those that fail are left out. */
function useLoop(urls: readonly string[], isWanted: boolean): readonly string[] {
  const [there, setThere] = useState<readonly string[]>([]);
  const key = urls.join(' ');
  useEffect(() => {
    if (!isWanted || key === '') return;
    let gone = false;
    const all = key.split(' ');
    const got = new Set<string>();
    for (const url of all) {
      const image = new Image();
      image.onload = () => {
        got.add(url);
        if (!gone) setThere(all.filter((u) => got.has(u)));
      };

      image.src = url;
    }

    return () => {
      gone = true;
    };
  }, [isWanted, key]);
  return there;
}

export function MovingCard({ shot, moves }: { shot: ShotCard; moves: boolean }): ReactNode {
  const plays = moves && shot.loop.length > 1 && !stillsOnly();
  const loop = useLoop(shot.loop, plays);
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!plays) return;
    const timer = window.setInterval(() => setAt((n) => n + 1), 1000 / PICTURES_A_SECOND);
    return () => window.clearInterval(timer);
  }, [plays]);
  const shown = plays && loop.length > 1 ? loop[at % loop.length] : shot.picture;
  return (
    <Frame data-moving={plays && loop.length > 1}>
      {shown ? <img src={shown} alt="" /> : <span>No picture yet</span>}
    </Frame>
  );
}
