// The sheet of a package: what is in it and how it was made, for whoever opens it without this application.
import { frameName, fileStem, PROGRAM } from '@bramblemist/core/cache/manifest';
import type { Recipe } from '@bramblemist/core/recipe/types';

export interface Piece {
  readonly kind: 'Volumes' | 'Render' | 'Comp';
  readonly name: string;
  readonly folder: string;
  readonly frames: readonly number[];
  readonly movies: readonly string[];
}

export interface About {
  readonly shot: string;
  readonly bake: number;
  readonly recipe: Recipe;
  readonly recipeSha256: string;
  readonly voxelSizeM: number;
  /** The scene for other programs could be made. */
  readonly hasScene: boolean;
}

const SIGNS: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const plain = (text: string): string => text.replace(/[&<>"]/g, (c) => SIGNS[c]);

/** 1–24, 30. */
export function rangesIn(frames: readonly number[]): string {
  const out: string[] = [];
  for (let n = 0; n < frames.length; n++) {
    const first = frames[n];
    while (n + 1 < frames.length && frames[n + 1] === frames[n] + 1) n++;
    out.push(frames[n] === first ? String(first) : `${first}–${frames[n]}`);
  }

  return out.join(', ');
}

const SCENE = `<li><code>scene.usda</code>: an OpenUSD scene with the volume sequence, cameras, lights and
obstacles, in metres.</li>
<li><code>scene.glb</code>: cameras and obstacles as glTF, for programs without OpenUSD.</li>
`;

/** A page without anything from elsewhere. */
export function sheetOf(
  { shot, bake, recipe, recipeSha256, voxelSizeM, hasScene }: About,
  pieces: readonly Piece[],
  remarks: readonly string[],
): string {
  const { space } = recipe;
  const volume = frameName(fileStem(recipe.name), space.firstFrame, 'vdb');
  const rows = pieces.map(({ kind, name, folder, frames, movies }) => {
    const cells = [
      kind,
      name,
      `${rangesIn(frames)} (${frames.length} ${frames.length === 1 ? 'frame' : 'frames'})`,
      `${folder}/`,
      movies.join(', '),
    ];
    return `<tr>${cells.map((c) => `<td>${plain(c)}</td>`).join('')}</tr>`;
  });
  const facts = [
    ['Recipe', `${recipe.name}, ${recipeSha256.slice(0, 12)}`],
    ['Bake', String(bake)],
    ['Room', `${space.size.join(' × ')} m, from ${space.corner.join(', ')} m; y is up`],
    ['Voxel of the air', `${voxelSizeM} m`],
    ['Frames a second', String(space.frameRate)],
    ['Made by', PROGRAM],
  ].map(([name, value]) => `<tr><th scope="row">${name}</th><td>${plain(value)}</td></tr>`);
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>${plain(shot)}: package</title>
<style>
body { font: 15px/1.5 system-ui, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }
table { border-collapse: collapse; margin: 0 0 1.5rem; }
th, td { text-align: left; padding: 0.3rem 1.2rem 0.3rem 0; border-bottom: 1px solid #ccc; }
code { font-size: 0.95em; }
</style>
</head>
<body>
<h1>${plain(shot)}</h1>
<table>${facts.join('\n')}</table>
<h2>What is in it</h2>
<table>
<tr><th>What</th><th>Name</th><th>Frames</th><th>Folder</th><th>Movies</th></tr>
${rows.join('\n')}
</table>
<ul>
${hasScene ? SCENE : ''}<li><code>manifest.json</code>: the recipe, readings of every frame,
and the checksum of every volume.</li>
<li>Volumes are OpenVDB (<code>${plain(volume)}</code> …); velocity, where it was kept, is
in m/s, on the faces of voxels.</li>
<li><code>checksums.sha256</code>: of every file, for <code>sha256sum -c</code>.</li>
<li>Pictures are linear light by Rec. 709 with premultiplied alpha in OpenEXR; beside each a PNG to look
at.</li>
</ul>
${remarks.length ? `<h2>Remarks</h2>\n<ul>${remarks.map((r) => `<li>${plain(r)}</li>`).join('\n')}</ul>` : ''}
</body>
</html>
`;
}
