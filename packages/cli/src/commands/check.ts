import { existsSync, readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { kindOf, MESH_ENDINGS, PICTURE_ENDINGS, readMesh, readPicture } from '@bramblemist/core/files/brought';
import { boundsOfMesh, checkMesh } from '@bramblemist/core/geometry/mesh';
import { UsageError } from '../failure';

export interface CheckArguments {
  name?: string;
  json?: boolean;
}

/** Looks a file over that is to be used in a recipe. */
export async function checkCommand(path: string, args: CheckArguments): Promise<void> {
  const name = args.name ?? basename(path),
    kind = kindOf(name);
  if (!kind)
    throw new UsageError(
      `${name}: no file of this kind is taken. Meshes come as ${MESH_ENDINGS.join(', ')}, pictures as ${PICTURE_ENDINGS.join(', ')}.`,
    );
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file.`);
  let report: object;
  try {
    const bytes = readFileSync(path);
    if (kind === 'mesh') {
      const mesh = await readMesh(name, bytes);
      report = { kind, ...checkMesh(mesh), ...boundsOfMesh(mesh), coloured: mesh.colours !== null };
    } else {
      const { width, height } = readPicture(name, bytes);
      report = { kind, width, height };
    }
  } catch (error) {
    throw new UsageError(`${name}: ${(error as Error).message}`);
  }
  if (args.json) return void console.log(JSON.stringify(report));
  for (const [key, value] of Object.entries(report))
    console.log(`${key.padEnd(13)} ${Array.isArray(value) ? value.map((v: number) => v.toPrecision(4)).join(' × ') : String(value)}`);
}
