import { readFileSync } from 'node:fs';
import { CoreError } from '@bramblemist/core/base/error';
import { nodeZip } from '@bramblemist/core/io/node/files';
import { activeBounds } from '@bramblemist/core/files/vdb/leaves';
import { readVdb } from '@bramblemist/core/files/vdb/reader';
import { UsageError } from '../failure';

export function infoCommand(path: string, args: { json?: boolean }): void {
  let file;
  try {
    file = readVdb(readFileSync(path), { zip: nodeZip });
  } catch (error) {
    if (error instanceof CoreError) throw new UsageError(`${path}: ${error.message}.`);
    throw new UsageError(
      `${path}: cannot be read (${(error as NodeJS.ErrnoException).code ?? String(error)}).`,
    );
  }

  const grids = file.grids.map((g) => {
    const n = g.kind === 'vec3' ? 3 : 1;
    let least = Infinity;
    let greatest = -Infinity;
    const meet = (values: ArrayLike<number>, v: number): void => {
      for (let c = 0; c < n; c++) {
        least = Math.min(least, values[v * n + c]);
        greatest = Math.max(greatest, values[v * n + c]);
      }
    };

    for (const { active, value } of g.tiles) if (active) meet(value, 0);
    for (const { active, values } of g.leaves)
      for (let v = 0; v < 512; v++) if ((active[v >> 3] >> (v & 7)) & 1) meet(values, v);
    const bounds = activeBounds(g);
    return {
      name: g.name,
      type: g.kind,
      half: g.half,
      voxelSize: g.voxelSize,
      translation: g.translation,
      activeVoxels: bounds?.voxels ?? 0,
      bounds: bounds ? { min: bounds.min, max: bounds.max } : null,
      range: bounds ? [least, greatest] : null,
      metadata: g.metadata,
    };
  });
  if (args.json)
    return void console.log(
      JSON.stringify({
        file: path,
        metadata: file.metadata,
        grids,
        others: file.others,
        remarks: file.remarks,
      }),
    );
  console.log(path);
  for (const g of grids) {
    console.log(
      `  ${g.name}: ${g.type}${g.half ? ', half' : ''}, voxels of ${g.voxelSize[0]} m, ` +
        `${g.activeVoxels} active`,
    );
    if (g.bounds && g.range)
      console.log(
        `    from ${g.bounds.min.join(' ')} to ${g.bounds.max.join(' ')}, values ` +
          `${g.range.map((v) => Number(v.toPrecision(5))).join(' to ')}`,
      );
  }

  for (const o of file.others) console.log(`  ${o.name}: ${o.type} (not read)`);
  for (const remark of file.remarks) console.log(`  ${remark}`);
}
