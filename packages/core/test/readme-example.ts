import { example, packFrame, simulate, writePacked } from '@bramblemist/core/io/node';

export function plume(): { mass: number; bytes: number }[] {
  const recipe = example('warm-plume');
  const frames = [];
  for (const { readings, simulation } of simulate(recipe, { threads: 2, voxelSizeM: 0.1, last: 3 })) {
    const file = writePacked(packFrame(simulation));
    frames.push({ mass: readings.mass, bytes: file.length });
  }

  return frames;
}
