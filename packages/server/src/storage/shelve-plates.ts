// Plates of earlier programs stood with their shot; they go onto the shelf of files, where comps look for
// them.
import { copyFile, mkdir } from 'node:fs/promises';
import { dirname } from 'node:path';
import { QueryTypes, type Sequelize } from 'sequelize';
import { BroughtFile } from '../models';
import { isThere, type Storage } from './storage';

interface Plate {
  readonly name: string;
  readonly sha256: string;
  readonly bytes: number;
  readonly width: number;
  readonly height: number;
}

export async function shelvePlates(database: Sequelize, storage: Storage): Promise<void> {
  const plates = await database.query<Plate>(
    "SELECT name, sha256, bytes, width, height FROM assets WHERE kind = 'plate'",
    { type: QueryTypes.SELECT },
  );
  for (const { name, sha256, bytes, width, height } of plates) {
    const [from, to] = [storage.assetFile(sha256), storage.broughtFile(sha256, 'png')];
    if (!(await isThere(from))) continue;
    await mkdir(dirname(to), { recursive: true });
    await copyFile(from, to);
    const report = { kind: 'picture' as const, width, height, notes: [] };
    if (!(await BroughtFile.findOne({ where: { sha256 } })))
      await BroughtFile.create({ name, sha256, bytes, report });
  }

  await database.query("DELETE FROM assets WHERE kind = 'plate'");
}
