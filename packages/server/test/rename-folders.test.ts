import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { renameFolders } from '@bramblemist/server/storage/rename-folders';

test('particles of earlier programs are found under today’s name, and nothing newer is touched', async () => {
  const root = mkdtempSync(join(tmpdir(), 'renamed-'));
  try {
    mkdirSync(join(root, 'drifts', '3'), { recursive: true });
    writeFileSync(join(root, 'drifts', '3', 'a.ply'), 'old');
    mkdirSync(join(root, 'bin', 'drifts', '1'), { recursive: true });
    await renameFolders(root);
    expect(readFileSync(join(root, 'particles', '3', 'a.ply'), 'utf8')).toBe('old');
    expect(existsSync(join(root, 'bin', 'particles', '1'))).toBe(true);
    expect(existsSync(join(root, 'drifts'))).toBe(false);

    // once more does nothing, and neither does it where both are there
    mkdirSync(join(root, 'drifts'));
    await renameFolders(root);
    expect(readFileSync(join(root, 'particles', '3', 'a.ply'), 'utf8')).toBe('old');
    expect(existsSync(join(root, 'drifts'))).toBe(true);
  } finally {
    rmSync(root, { recursive: true });
  }
});
