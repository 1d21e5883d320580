// Files of the shot: brought in by dropping or choosing, with what the check found and the fixes that follow
// from it.
import { FileUp, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { DropZone, FileTrigger, isFileDropItem } from 'react-aria-components';
import styled from 'styled-components';
import { type InTime } from '@bramblemist/core/assets/import-asset';
import {
  ALL_ENDINGS,
  MESH_ENDINGS,
  PARTICLE_ENDINGS,
  PICTURE_ENDINGS,
  VOLUME_ENDINGS,
} from '@bramblemist/core/assets/imported';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { withFile, without } from '@bramblemist/core/presets/edit';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import type { FilePart, Recipe } from '@bramblemist/core/recipe/types';
import { partOf } from '@bramblemist/core/recipe/settings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change, changeRecipe } from '../data/bench';
import { useAssets } from '../data/files';
import { gathered } from '../data/gathered';
import { useBringFile, useFiles } from '../data/queries/files';
import { ChoiceWord } from '../parts/controls';
import { Ingredient } from '../parts/Ingredient';
import { Thumb } from '../parts/Thumb';
import { Bar, Button, bytes, Heading, Mark, Plain, Quiet, Section, Trouble } from '../parts/ui';

const Zone = styled(DropZone)`
  border: 1px dashed ${({ theme }) => theme.line};
  border-radius: 6px;
  padding: 10px 12px;
  color: ${({ theme }) => theme.quiet};
  display: grid;
  gap: 6px;
  &[data-drop-target] {
    border-color: ${({ theme }) => theme.thorn};
    background: ${({ theme }) => theme.raised};
  }
`;
const Looks = styled.div`
  display: flex;
  gap: 10px;
  align-items: flex-start;
  margin: 2px 0 8px 16px;
`;
const Findings = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 12px;
  line-height: 1.45;
`;

/** What a recipe takes a file as. @throws Error where it is of no use to one */
function recipeKind({ name, report: { kind } }: FileInfo): FilePart['kind'] {
  if (kind === 'movie' || kind === 'pictures' || kind === 'track' || kind === 'table')
    throw new Error(`${name} is of use in Combine alone: bring it in there.`);
  return kind;
}

const isForRecipes = ({ report: { kind } }: FileInfo): boolean =>
  ['mesh', 'particles', 'volume', 'picture'].includes(kind);
const dotted = (endings: readonly string[]): string => endings.map((e) => `.${e}`).join(' ');
/** Larger or smaller than this, metres, a mesh was hardly made in the unit that is set. */
const LARGE = 60;
const SMALL = 0.02;

interface Told {
  tone: 'well' | 'stale' | 'trouble';
  text: string;
  cure?: { label: string; path: 'scale' | 'rate'; value: number };
}

/** What an artist should know of a file before using it, with cures. */
function findings(file: FilePart, info: FileInfo | undefined, recipe: Recipe): Told[] {
  if (!info) return [{ tone: 'trouble', text: 'It is not on the shelf any more. Bring it in again.' }];
  // files that were looked over by an earlier program have none
  const notes = info.report.notes ?? [];
  return [...whatItIs(file, info, recipe), ...notes.map((text) => ({ tone: 'stale' as const, text }))];
}

function whatItIs(file: FilePart, info: FileInfo, recipe: Recipe): Told[] {
  const r = info.report;
  if (r.kind === 'movie' || r.kind === 'pictures' || r.kind === 'track' || r.kind === 'table')
    return [{ tone: 'stale', text: 'It is of use in Combine alone.' }];
  const time = r.kind === 'picture' ? null : (r.time ?? null);
  const moving: Told[] = time ? timeFindings(file, time, recipe) : [];
  if (r.kind === 'particles') {
    const carried = [r.hasSpeeds && 'speeds', r.hasRadii && 'radii', r.hasIds && 'ids'].filter(Boolean);
    return [
      {
        tone: 'well',
        text:
          `up to ${r.most} particles${carried.length ? ` with ${carried.join(', ')}` : ''}, ` +
          `${r.size.map((v) => formatValue(v * file.scale, 'm')).join(' × ')}`,
      },
      ...moving,
      ...(time && !r.hasIds
        ? [
            {
              tone: 'stale' as const,
              text: 'Without ids they are known again by their order, where two frames hold as many.',
            },
          ]
        : []),
    ];
  }

  if (r.kind === 'volume') {
    const short = (v: number): string => String(Number(v.toPrecision(3)));
    return [
      {
        tone: 'well',
        text:
          r.size.map((v) => formatValue(Number((v * file.scale).toPrecision(3)), 'm')).join(' × ') +
          (r.hasVelocity ? ', with velocity' : ''),
      },
      ...r.grids.map((g) => ({
        tone: 'well' as const,
        text: `${g.name}, ${g.type}${g.range ? `, ${short(g.range[0])} to ${short(g.range[1])}` : ''}`,
      })),
      ...moving,
    ];
  }

  if (r.kind === 'picture')
    return [{ tone: 'well', text: `${r.width} × ${r.height} pixels, ${bytes(info.bytes)}` }];
  const size = r.size.map((v) => v * file.scale);
  const longest = Math.max(...size);
  const thinnest = Math.min(...size);
  const h = recipe.space.voxelSize;
  const out: ReturnType<typeof findings> = [
    {
      tone: 'well',
      text:
        `${size.map((v) => formatValue(v, 'm')).join(' × ')}, ${r.triangles} ` +
        `triangles${r.coloured ? ', with colours at its vertices' : ''}`,
    },
  ];
  out.push(...moving);
  if (longest > LARGE)
    out.push({
      tone: 'stale',
      text: `It is ${formatValue(longest, 'm')} long.`,
      cure: { label: 'It was made in centimetres', path: 'scale', value: file.scale / 100 },
    });
  if (longest < SMALL)
    out.push({
      tone: 'stale',
      text: `It is only ${formatValue(longest, 'm')} long.`,
      cure: { label: 'Make it a hundred times larger', path: 'scale', value: file.scale * 100 },
    });
  if (thinnest < h)
    out.push({
      tone: 'stale',
      text:
        `It is thinner than a voxel of ${formatValue(h, 'm')}; as an obstacle it is made about one voxel ` +
        'thick.',
    });
  if (r.openEdges)
    out.push({
      tone: 'stale',
      text: `${r.openEdges} open edges: its holes are closed where the inside ends.`,
    });
  if (r.flippedEdges)
    out.push({ tone: 'stale', text: `${r.flippedEdges} edges between faces that look opposite ways.` });
  if (r.sharedEdges) out.push({ tone: 'stale', text: `${r.sharedEdges} edges with more than two faces.` });
  if (r.volume < 0 && !r.openEdges)
    out.push({
      tone: 'trouble',
      text:
        'It is inside-out: its faces look inward. Turn it round where it ' +
        'was made, or use it as a vessel.',
    });
  if (r.flat) out.push({ tone: 'stale', text: `${r.flat} triangles without area; they do no harm.` });
  return out;
}

/** What a sequence or an animation does in the shot's time. */
function timeFindings(file: FilePart, time: InTime, { space }: Recipe): ReturnType<typeof findings> {
  const out: ReturnType<typeof findings> = [];
  const rate = file.rate || space.frameRate;
  const length = time.last - time.first;
  const seconds = ((time.unit === 'seconds' ? length : length / rate) * 100) / file.pace;
  const shot = (space.lastFrame - space.firstFrame + 1) / space.frameRate;
  out.push({
    tone: 'well',
    text:
      time.unit === 'seconds'
        ? `animated over ${formatValue(length, 's')}`
        : `a sequence of frames ${time.first}–${time.last}, ${formatValue(seconds, 's')} at ${rate} fps`,
  });
  if (time.unit === 'frames' && rate !== space.frameRate)
    out.push({
      tone: 'stale',
      text:
        `It goes at ${rate} fps, the shot at ${space.frameRate}: frames between are made from their ` +
        'neighbours.',
      cure: { label: 'Take the shot’s rate', path: 'rate', value: 0 },
    });
  if (seconds < shot * 0.98 && file.after === 'hold')
    out.push({
      tone: 'stale',
      text: `It ends before the shot (${formatValue(shot, 's')}) and then stands still.`,
    });
  if (!time.keepsShape)
    out.push({
      tone: 'stale',
      text:
        'Its faces change from frame to frame: it jumps from one to the next, and its surface gives the ' +
        'air no speed.',
    });
  return out;
}

/** Where it is used, shot by shot. */
function usedElsewhere(info: FileInfo | undefined): string {
  const shots = new Map<string, number>();
  for (const use of info?.usedIn ?? []) {
    const shot = use.replace(/, variant \d+$/, '');
    shots.set(shot, (shots.get(shot) ?? 0) + 1);
  }

  return shots.size
    ? `used in ${[...shots].map(([shot, n]) => (n > 1 ? `${shot} (${n} variants)` : shot)).join(', ')}`
    : '';
}

export function Files({ recipe }: { recipe: Recipe }): ReactNode {
  const assets = useAssets(recipe);
  const shelf = useFiles();
  const bring = useBringFile();
  const [coming, setComing] = useState<{ name: string; part: number } | null>(null);
  const [wrong, setWrong] = useState<string[]>([]);
  const receive = async (files: readonly File[]): Promise<void> => {
    setWrong([]);
    let now = recipe;
    for (const file of await gathered(files)) {
      setComing({ name: file.name, part: 0 });
      try {
        const info = await bring.mutateAsync({
          file,
          onPart: (part) => setComing({ name: file.name, part }),
        });
        now = withFile(
          now,
          { name: info.name, sha256: info.sha256, kind: recipeKind(info) },
          `file-${crypto.randomUUID().slice(0, 8)}`,
        ).recipe;
        change(`bring in ${info.name}`, 'recipe', 'files', now.files);
      } catch (error) {
        setWrong((list) => [...list, (error as Error).message]);
      }
    }

    setComing(null);
  };

  const part = partOf(RECIPE.parts, 'files');
  const others = (shelf.data ?? [])
    .filter(isForRecipes)
    .filter((f) => !recipe.files.some((own) => own.sha256 === f.sha256));
  return (
    <Section>
      <Heading>
        Files{' '}
        {others.length > 0 && (
          <ChoiceWord
            name="Take from the shelf"
            value=""
            options={[
              { value: '', label: 'from the shelf …' },
              ...others.map((f) => ({ value: f.sha256, label: f.name })),
            ]}
            onChange={(sha) => {
              const f = others.find((o) => o.sha256 === sha);
              if (f)
                change(
                  `take ${f.name}`,
                  'recipe',
                  'files',
                  withFile(
                    recipe,
                    { name: f.name, sha256: sha, kind: recipeKind(f) },
                    `file-${crypto.randomUUID().slice(0, 8)}`,
                  ).recipe.files,
                );
            }}
          />
        )}
      </Heading>
      {recipe.files.map((file, n) => (
        <div key={file.id}>
          <Ingredient
            part={part}
            values={file}
            frameRate={recipe.space.frameRate}
            onChange={(path, label, value) => change(label, 'recipe', `files.${n}.${path}`, value)}
            actions={
              <Button onPress={() => changeRecipe(`remove ${file.name}`, without(recipe, 'files', file.id))}>
                <Trash2 size={13} /> Remove from the shot
              </Button>
            }
          />
          <Looks>
            <Thumb file={file} assets={assets} />
            <Findings>
              {findings(
                file,
                shelf.data?.find((f) => f.sha256 === file.sha256),
                recipe,
              ).map((f) => (
                <li key={f.text}>
                  <Mark state={f.tone}>{''}</Mark>
                  {f.text}{' '}
                  {f.cure && (
                    <Plain
                      onPress={() =>
                        change(f.cure!.label, 'recipe', `files.${n}.${f.cure!.path}`, f.cure!.value)
                      }
                      style={{ textDecoration: 'underline' }}
                    >
                      {f.cure.label}
                    </Plain>
                  )}
                </li>
              ))}
              {usedElsewhere(shelf.data?.find((f) => f.sha256 === file.sha256)) && (
                <li>{usedElsewhere(shelf.data?.find((f) => f.sha256 === file.sha256))}</li>
              )}
            </Findings>
          </Looks>
        </div>
      ))}
      <Zone
        aria-label="Drop files here"
        getDropOperation={() => 'copy'}
        onDrop={(e) => {
          void Promise.all(e.items.filter(isFileDropItem).map((i) => i.getFile())).then(receive);
        }}
      >
        {coming ? (
          <div role="status">
            {coming.part < 1 ? `Sending ${coming.name}` : `Checking ${coming.name}`} …
            <Bar $part={coming.part} />
          </div>
        ) : (
          <>
            <Quiet>
              Meshes ({dotted(MESH_ENDINGS)}), particles ({dotted(PARTICLE_ENDINGS)}), volumes (
              {dotted(VOLUME_ENDINGS)}) and pictures ({dotted(PICTURE_ENDINGS)}); numbered files together are
              a sequence. Drop them here, or
            </Quiet>
            <FileTrigger
              allowsMultiple
              acceptedFileTypes={ALL_ENDINGS.map((e) => `.${e}`)}
              onSelect={(list) => void receive([...(list ?? [])])}
            >
              <Button style={{ justifySelf: 'start' }}>
                <FileUp size={14} /> Choose files
              </Button>
            </FileTrigger>
          </>
        )}
      </Zone>
      {wrong.map((message) => (
        <Trouble key={message}>{message}</Trouble>
      ))}
    </Section>
  );
}
