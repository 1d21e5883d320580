// A small picture of what a file holds: the mesh by its edges, particles as dots, a picture as it is.
import { useEffect, useRef, type ReactNode } from 'react';
import styled from 'styled-components';
import type { Assets } from '@bramblemist/core/assets/assets';
import type { FilePart } from '@bramblemist/core/recipe/types';

const WIDE = 72;
const HIGH = 48;
const MOST_TRIANGLES = 4000;
const MOST_DOTS = 3000;
const Small = styled.canvas`
  width: ${WIDE}px;
  height: ${HIGH}px;
  border-radius: 3px;
  background: ${({ theme }) => theme.surround};
  flex: none;
`;

/** Seen from the front, a little from the right and from above; across and up in pixels. */
function flat(p: ArrayLike<number>, n: number): [number, number] {
  const x = p[3 * n];
  const y = p[3 * n + 1];
  const z = p[3 * n + 2];
  return [x * 0.87 - z * 0.5, -(y * 0.9 - x * 0.2 - z * 0.38)];
}

function draw(c: CanvasRenderingContext2D, file: FilePart, assets: Assets): void {
  if (file.kind === 'picture') {
    const { width, height, planes } = assets.picture(file);
    const size = width * height;
    const scale = Math.min(WIDE / width, HIGH / height);
    const image = c.createImageData(WIDE, HIGH);
    for (let y = 0; y < HIGH; y++)
      for (let x = 0; x < WIDE; x++) {
        const i = Math.floor((x - (WIDE - width * scale) / 2) / scale);
        const j = height - 1 - Math.floor((y - (HIGH - height * scale) / 2) / scale);
        if (i < 0 || j < 0 || i >= width || j >= height) continue;
        for (let a = 0; a < 3; a++)
          image.data[4 * (y * WIDE + x) + a] =
            255 * Math.min(1, planes[a * size + j * width + i]) ** (1 / 2.2);
        image.data[4 * (y * WIDE + x) + 3] = 255;
      }

    return c.putImageData(image, 0, 0);
  }

  const mesh = file.kind === 'mesh' || file.kind === 'volume' ? assets.mesh(file) : null;
  const own = mesh?.at(mesh.first);
  const clouds = mesh ? null : assets.clouds(file);
  const positions = own?.positions ?? clouds!.at(clouds!.first, clouds!.first).positions;
  const places = Array.from({ length: positions.length / 3 }, (_, n) => flat(positions, n));
  const edge = (a: 0 | 1, pick: 'min' | 'max'): number =>
    places.reduce((m, p) => Math[pick](m, p[a]), pick === 'min' ? Infinity : -Infinity);
  const [x0, x1, y0, y1] = [edge(0, 'min'), edge(0, 'max'), edge(1, 'min'), edge(1, 'max')];
  const scale = Math.min((WIDE - 8) / (x1 - x0 || 1), (HIGH - 8) / (y1 - y0 || 1));
  const at = (n: number): [number, number] => [
    WIDE / 2 + (places[n][0] - (x0 + x1) / 2) * scale,
    HIGH / 2 + (places[n][1] - (y0 + y1) / 2) * scale,
  ];
  c.clearRect(0, 0, WIDE, HIGH);
  c.strokeStyle = c.fillStyle = '#d9d4dd';
  if (own) {
    const t = own.triangles;
    const every = 3 * Math.ceil(t.length / 3 / MOST_TRIANGLES);
    c.globalAlpha = t.length > 900 ? 0.25 : 0.8;
    c.lineWidth = 0.6;
    c.beginPath();
    for (let n = 0; n < t.length; n += every) {
      c.moveTo(...at(t[n]));
      for (const v of [t[n + 1], t[n + 2], t[n]]) c.lineTo(...at(v));
    }

    c.stroke();
  } else {
    const every = Math.ceil(places.length / MOST_DOTS);
    for (let n = 0; n < places.length; n += every) c.fillRect(at(n)[0], at(n)[1], 1.2, 1.2);
  }
}

export function Thumb({ file, assets }: { file: FilePart; assets: Assets }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current?.getContext('2d');
    try {
      if (c) draw(c, file, assets);
    } catch {
      // it is not here yet, or cannot be read: the line beside it says so
    }
  }, [file, assets]);
  return (
    <Small ref={canvas} width={WIDE} height={HIGH} role="img" aria-label={`What ${file.name} looks like`} />
  );
}
