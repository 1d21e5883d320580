// What was handed over, held against its list of checksums: in its ZIP, or in the folder that it was unpacked
// to. The list is of the common form: SHA-256, two blanks, a path.
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { CoreError } from '../../base/error';
import { rangesOfFile, sha256, sha256OfFile, zipEntries } from './files';

export const CHECKSUMS = 'checksums.sha256';

/** What is wrong with a file of a package. */
export interface PackageDamage {
  readonly file: string;
  readonly what: string;
}

export const isPackage = (path: string): boolean => /\.zip$/i.test(path) || existsSync(join(path, CHECKSUMS));

/**
 * Reads every file again. @throws CoreError where there is no list
 * @param onFile told after each file
 */
export function verifyPackage(
  path: string,
  onFile: (done: number, total: number, damage: PackageDamage | null) => void,
): PackageDamage[] {
  const { list, hashOf } = statSync(path).isDirectory() ? unpacked(path) : packed(path);
  const wanted = list
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => {
      const match = /^([0-9a-f]{64}) [ *](.+)$/.exec(line);
      if (!match) throw new CoreError('file', `${CHECKSUMS}: “${line.slice(0, 80)}” names no file.`);
      return { sum: match[1], file: match[2] };
    });
  const out: PackageDamage[] = [];
  wanted.forEach(({ sum, file }, n) => {
    let damage: PackageDamage | null = null;
    try {
      const found = hashOf(file);
      if (found === null) damage = { file, what: 'it is not there' };
      else if (found !== sum) damage = { file, what: 'its content is not what was written' };
    } catch (error) {
      damage = { file, what: (error as Error).message };
    }

    if (damage) out.push(damage);
    onFile(n + 1, wanted.length, damage);
  });
  return out;
}

interface Opened {
  readonly list: string;
  /** Null where the file is not there. */
  hashOf(file: string): string | null;
}

function unpacked(folder: string): Opened {
  return {
    list: readFileSync(join(folder, CHECKSUMS), 'utf8'),
    hashOf: (file) => {
      // nothing outside of the folder is looked at
      if (file.split(/[/\\]/).includes('..') || file.startsWith('/')) return null;
      const path = join(folder, file);
      return existsSync(path) ? sha256OfFile(rangesOfFile(path)) : null;
    },
  };
}

function packed(path: string): Opened {
  const entries = zipEntries(path);
  const list = entries.get(CHECKSUMS);
  if (!list) throw new CoreError('file', `${path}: holds no ${CHECKSUMS}, so it is no package of ours.`);
  return {
    list: new TextDecoder().decode(list.read()),
    hashOf: (file) => {
      const own = entries.get(file);
      return own ? sha256(own.read()) : null;
    },
  };
}
