// The sheet of a package: what is in it and how it was made, for whoever opens it without this application.
import { PROGRAM } from '@bramblemist/core/cache/manifest';
import type { Recipe } from '@bramblemist/core/recipe/types';

export interface Piece {
  readonly kind:
    | 'Volumes'
    | 'Particles'
    | 'Render'
    | 'Comp'
    | 'Reference'
    | 'Contact sheet'
    | 'Review movie'
    | 'Documents';
  readonly name: string;
  /** The path of its first file. */
  readonly first: string;
  /** Empty for what is of no frame. */
  readonly frames: readonly number[];
  readonly files: number;
}

export interface About {
  readonly shot: string;
  readonly version: number;
  readonly note: string;
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
<li><code>scene.glb</code>: cameras, lights and obstacles as glTF, for programs without OpenUSD.</li>
`;

const VOLUMES = `<li><code>manifest.json</code> beside the volumes: the recipe, readings of every frame,
and the checksum of every volume.</li>
<li>Volumes are OpenVDB; velocity, where it was kept, is in m/s, on the faces of voxels.</li>
`;
const PICTURES = `<li>Pictures are linear light by Rec. 709 with premultiplied alpha in OpenEXR; PNGs are as a
screen shows them.</li>
`;
const DOCUMENTS = `<li><code>documents/</code>: recipe, looks and comps as JSON, which the application and its
command line read, and notes as text.</li>
`;
const CONTACT = `<p><img src="contact.png" alt="Contact sheet" style="max-width: 100%"></p>
`;
const counted = (n: number, what: string): string => `${n} ${n === 1 ? what : `${what}s`}`;

/** A page without anything from elsewhere. */
export function sheetOf(
  { shot, version, note, bake, recipe, recipeSha256, voxelSizeM, hasScene }: About,
  pieces: readonly Piece[],
  remarks: readonly string[],
): string {
  const { space } = recipe;
  const has = (kind: Piece['kind']): boolean => pieces.some((p) => p.kind === kind);
  const told = [
    hasScene && SCENE,
    has('Volumes') && VOLUMES,
    (has('Render') || has('Comp')) && PICTURES,
    has('Documents') && DOCUMENTS,
  ]
    .filter(Boolean)
    .join('');
  const rows = pieces.map(({ kind, name, first, frames, files }) => {
    const cells = [
      kind,
      name,
      frames.length > 0 ? `${rangesIn(frames)} (${counted(frames.length, 'frame')})` : '',
      counted(files, 'file'),
      files > 1 ? `${first} …` : first,
    ];
    return `<tr>${cells.map((c) => `<td>${plain(c)}</td>`).join('')}</tr>`;
  });
  const facts = [
    ['Version', String(version)],
    ...(note ? [['Note', note]] : []),
    ['Recipe', `${recipe.name}, ${recipeSha256.slice(0, 12)}`],
    ['Bake', String(bake)],
    ['Domain', `${space.size.join(' × ')} m, from ${space.corner.join(', ')} m; y is up`],
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
${has('Contact sheet') ? CONTACT : ''}<h2>What is in it</h2>
<table>
<tr><th>What</th><th>Name</th><th>Frames</th><th>Files</th><th>The first</th></tr>
${rows.join('\n')}
</table>
<ul>
${told}\
<li><code>checksums.sha256</code>: of every file, for <code>sha256sum -c</code>.</li>
</ul>
${remarks.length ? `<h2>Remarks</h2>\n<ul>${remarks.map((r) => `<li>${plain(r)}</li>`).join('\n')}</ul>` : ''}
</body>
</html>
`;
}
