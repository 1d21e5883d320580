// PLY files, binary and little-endian: particles as vertices with a property for each column, and lines as
// edges.
import { FileError } from '../bytes';

export type Columns = ReadonlyMap<string, Float32Array | Uint32Array>;

function head(
  elements: readonly { name: string; count: number; properties: readonly string[] }[],
): Uint8Array {
  const lines = ['ply', 'format binary_little_endian 1.0'];
  for (const e of elements)
    lines.push(`element ${e.name} ${e.count}`, ...e.properties.map((p) => `property ${p}`));
  return new TextEncoder().encode(`${[...lines, 'end_header'].join('\n')}\n`);
}

/** @param columns of one length each, four bytes a value */
export function writePlyCloud(columns: Columns): Uint8Array {
  const all = [...columns.values()];
  const count = all[0]?.length ?? 0;
  const stride = 4 * all.length;
  if (all.some((c) => c.length !== count)) throw new FileError('Columns of several lengths are no particles');
  const top = head([
    {
      name: 'vertex',
      count,
      properties: [...columns].map(([name, c]) => `${c instanceof Uint32Array ? 'uint' : 'float'} ${name}`),
    },
  ]);
  const out = new Uint8Array(top.length + count * stride);
  const view = new DataView(out.buffer);
  out.set(top);
  all.forEach((c, n) => {
    let at = top.length + 4 * n;
    if (c instanceof Uint32Array)
      for (let i = 0; i < count; i++, at += stride) view.setUint32(at, c[i], true);
    else for (let i = 0; i < count; i++, at += stride) view.setFloat32(at, c[i], true);
  });
  return out;
}

/**
 * Lines through places, as vertices and the edges between them.
 * @param places x y z, one line's behind the other's
 * @param lengths places of each line
 */
export function writePlyLines(places: Float32Array, lengths: ArrayLike<number>): Uint8Array {
  const count = places.length / 3;
  let edges = 0;
  for (let n = 0; n < lengths.length; n++) edges += Math.max(0, lengths[n] - 1);
  const top = head([
    { name: 'vertex', count, properties: ['float x', 'float y', 'float z'] },
    { name: 'edge', count: edges, properties: ['int vertex1', 'int vertex2'] },
  ]);
  const out = new Uint8Array(top.length + 12 * count + 8 * edges);
  const view = new DataView(out.buffer);
  out.set(top);
  for (let n = 0; n < places.length; n++) view.setFloat32(top.length + 4 * n, places[n], true);
  for (let n = 0, first = 0, at = top.length + 12 * count; n < lengths.length; first += lengths[n], n++)
    for (let i = 1; i < lengths[n]; i++, at += 8) {
      view.setInt32(at, first + i - 1, true);
      view.setInt32(at + 4, first + i, true);
    }

  return out;
}
