// Files of the shot: brought in by dropping or choosing, with what the check found and the fixes that follow from it.
import { FileUp, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { DropZone, FileTrigger, isFileDropItem } from 'react-aria-components';
import styled from 'styled-components';
import type { FileInfo } from '@bramblemist/contracts/payloads';
import { withFile, without } from '@bramblemist/core/recipe/edit';
import { RECIPE, type FilePart, type Recipe } from '@bramblemist/core/recipe/recipe';
import { partOf } from '@bramblemist/core/recipe/settings';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change, changeRecipe } from '../data/bench';
import { useBringFile, useFiles } from '../data/queries';
import { ChoiceWord } from '../parts/controls';
import { Ingredient } from '../parts/Ingredient';
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
const Findings = styled.ul`
  margin: 0 0 8px 16px;
  padding: 0;
  list-style: none;
  font-size: 12px;
  line-height: 1.45;
`;
const ENDINGS = ['.obj', '.ply', '.stl', '.glb', '.gltf', '.png', '.exr'];
/** Larger or smaller than this, metres, a mesh was hardly made in the unit that is set. */
const LARGE = 60,
  SMALL = 0.02;

/** What an artist should know of a file before using it, with cures. */
function findings(
  file: FilePart,
  info: FileInfo | undefined,
  recipe: Recipe,
): { tone: 'well' | 'stale' | 'trouble'; text: string; cure?: { label: string; scale: number } }[] {
  if (!info) return [{ tone: 'trouble', text: 'It is not on the shelf any more. Bring it in again.' }];
  const r = info.report;
  if (r.kind === 'picture') return [{ tone: 'well', text: `${r.width} × ${r.height} pixels, ${bytes(info.bytes)}` }];
  const size = r.size.map((v) => v * file.scale),
    longest = Math.max(...size),
    thinnest = Math.min(...size),
    h = recipe.space.voxelSize;
  const out: ReturnType<typeof findings> = [
    {
      tone: 'well',
      text: `${size.map((v) => formatValue(v, 'm')).join(' × ')}, ${r.triangles} triangles${r.coloured ? ', with colours at its vertices' : ''}`,
    },
  ];
  if (longest > LARGE)
    out.push({
      tone: 'stale',
      text: `It is ${formatValue(longest, 'm')} long.`,
      cure: { label: 'It was made in centimetres', scale: file.scale / 100 },
    });
  if (longest < SMALL)
    out.push({
      tone: 'stale',
      text: `It is only ${formatValue(longest, 'm')} long.`,
      cure: { label: 'Make it a hundred times larger', scale: file.scale * 100 },
    });
  if (thinnest < h)
    out.push({
      tone: 'stale',
      text: `It is thinner than a voxel of ${formatValue(h, 'm')}; as an obstacle it is made about one voxel thick.`,
    });
  if (r.openEdges) out.push({ tone: 'stale', text: `${r.openEdges} open edges: its holes are closed where the inside ends.` });
  if (r.flippedEdges) out.push({ tone: 'stale', text: `${r.flippedEdges} edges between faces that look opposite ways.` });
  if (r.sharedEdges) out.push({ tone: 'stale', text: `${r.sharedEdges} edges with more than two faces.` });
  if (r.volume < 0 && !r.openEdges)
    out.push({ tone: 'trouble', text: 'It is inside-out: its faces look inward. Turn it round where it was made, or use it as a vessel.' });
  if (r.flat) out.push({ tone: 'stale', text: `${r.flat} triangles without area; they do no harm.` });
  return out;
}

export function Files({ recipe }: { recipe: Recipe }): ReactNode {
  const shelf = useFiles(),
    bring = useBringFile();
  const [coming, setComing] = useState<{ name: string; part: number } | null>(null),
    [wrong, setWrong] = useState<string[]>([]);
  const receive = async (files: readonly File[]): Promise<void> => {
    setWrong([]);
    let now = recipe;
    for (const file of files) {
      setComing({ name: file.name, part: 0 });
      try {
        const info = await bring.mutateAsync({ file, onPart: (part) => setComing({ name: file.name, part }) });
        now = withFile(
          now,
          { name: info.name, sha256: info.sha256, kind: info.report.kind },
          `file-${crypto.randomUUID().slice(0, 8)}`,
        ).recipe;
        change(`bring in ${info.name}`, 'recipe', 'files', now.files);
      } catch (error) {
        setWrong((list) => [...list, (error as Error).message]);
      }
    }
    setComing(null);
  };
  const part = partOf(RECIPE.parts, 'files'),
    others = (shelf.data ?? []).filter((f) => !recipe.files.some((own) => own.sha256 === f.sha256));
  return (
    <Section>
      <Heading>
        Files{' '}
        {others.length > 0 && (
          <ChoiceWord
            name="Take from the shelf"
            value=""
            options={[{ value: '', label: 'from the shelf …' }, ...others.map((f) => ({ value: f.sha256, label: f.name }))]}
            onChange={(sha) => {
              const f = others.find((o) => o.sha256 === sha);
              if (f)
                change(
                  `take ${f.name}`,
                  'recipe',
                  'files',
                  withFile(recipe, { name: f.name, sha256: sha, kind: f.report.kind }, `file-${crypto.randomUUID().slice(0, 8)}`).recipe
                    .files,
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
                    onPress={() => change(f.cure!.label, 'recipe', `files.${n}.scale`, f.cure!.scale)}
                    style={{ textDecoration: 'underline' }}
                  >
                    {f.cure.label}
                  </Plain>
                )}
              </li>
            ))}
          </Findings>
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
              Meshes ({ENDINGS.slice(0, 5).join(' ')}) and pictures ({ENDINGS.slice(5).join(' ')}): drop them here, or
            </Quiet>
            <FileTrigger allowsMultiple acceptedFileTypes={ENDINGS} onSelect={(list) => void receive([...(list ?? [])])}>
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
