// One run of a trial sheet as a picture that moves: its frames are fetched as they come and drawn as the
// sheet says.
import { useEffect, useRef, useState, type ReactNode } from 'react';
import styled, { useTheme } from 'styled-components';
import type { SheetInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';

const Picture = styled.canvas`
  display: block;
  width: 100%;
  border-radius: 3px;
`;
/** Pictures of a cell that are fetched at a time. */
const AT_ONCE = 4;

export function MovingPicture({
  sheet,
  cell,
  there,
  shown,
  label,
}: {
  sheet: SheetInfo;
  cell: number;
  there: number;
  shown: number;
  label: string;
}): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  const theme = useTheme();
  const pictures = useRef<(ImageBitmap | null)[]>([]);
  const [got, setGot] = useState(0);
  useEffect(() => {
    let gone = false;
    const fetchFrom = async (n: number): Promise<void> => {
      for (let i = n; i < there && !gone; i += AT_ONCE) {
        if (pictures.current[i]) continue;
        const response = await fetch(routes.sheetPicture(sheet.id, cell, sheet.first + i));
        if (!response.ok) continue; // a run that ended early has no more
        const made = await createImageBitmap(await response.blob());
        if (gone) return made.close();
        pictures.current[i] = made;
        setGot((g) => g + 1);
      }
    };

    for (let n = 0; n < AT_ONCE; n++) void fetchFrom(n).catch(() => {});
    return () => {
      gone = true;
    };
  }, [sheet.id, sheet.first, cell, there]);
  useEffect(
    () => () => {
      for (const p of pictures.current) p?.close();
      pictures.current = [];
    },
    [],
  );
  useEffect(() => {
    const c = canvas.current;
    if (!c) return;
    // the last one that is there stands until this one comes
    let n = shown;
    while (n > 0 && !pictures.current[n]) n--;
    const picture = pictures.current[n];
    const width = picture?.width ?? 320;
    const height = picture?.height ?? 180;
    if (c.width !== width || c.height !== height) {
      c.width = width;
      c.height = height;
    }

    const context = c.getContext('2d')!;
    context.fillStyle = theme.surround;
    context.fillRect(0, 0, width, height);
    if (picture) context.drawImage(picture, 0, 0);
  }, [shown, got, theme.surround]);
  return <Picture ref={canvas} width={320} height={180} role="img" aria-label={label} data-pictures={got} />;
}
