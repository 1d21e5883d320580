// What lights the medium from all round: a colour, or a picture of all directions from the shelf.
import { FileUp } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import type { FileInfo } from '@bramblemist/contracts/payloads';
import { PICTURE_ENDINGS } from '@bramblemist/core/assets/import-asset';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import type { FilePart } from '@bramblemist/core/recipe/types';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { useBringFile, useFiles } from '../../data/queries';
import { Ingredient } from '../../parts/Ingredient';
import { Button, Quiet, Trouble } from '../../parts/ui';
import { Actions, newId } from '../page-parts';
import { changeLook } from './change-look';
import type { LookPartsProps } from './Lights';

/** Before the content of a file that is on the shelf and not of the look yet. */
const ON_SHELF = 'shelf:';
const WIDE = 2;

/** A look whose environment is this picture; others of its files that nothing needs any more are gone. */
function withSky(look: Look, { name, sha256 }: Pick<FileInfo, 'name' | 'sha256'>): Look {
  const known = look.files.find((f) => f.sha256 === sha256);
  const file = known ?? LOOK.defaultPart<FilePart>('files', { id: newId(), name, sha256, kind: 'picture' });
  return { ...look, files: [file], sky: { ...look.sky, kind: 'picture', picture: file.id } };
}

export function Sky({ look, frameRate, keysFor }: LookPartsProps): ReactNode {
  const shelf = useFiles();
  const bring = useBringFile();
  const [wrong, setWrong] = useState<string | null>(null);
  const pictures = (shelf.data ?? []).filter(({ report }) => report.kind === 'picture');
  const others = pictures.filter(({ sha256 }) => !look.files.some((f) => f.sha256 === sha256));
  const used = pictures.find(
    ({ sha256 }) => look.files.find((f) => f.id === look.sky.picture)?.sha256 === sha256,
  );
  const shape = used?.report.kind === 'picture' ? used.report.width / used.report.height : WIDE;
  const take = async (file: File): Promise<void> => {
    try {
      const info = await bring.mutateAsync({ file, onPart: () => undefined });
      if (info.report.kind !== 'picture') throw new Error(`${info.name} is no picture.`);
      changeLook(`light by ${info.name}`, (l) => withSky(l, info));
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };

  return (
    <Ingredient
      part={partOf(LOOK.parts, 'sky')}
      values={look.sky}
      frameRate={frameRate}
      keysOf={keysFor('sky')}
      targets={() => [
        ...look.files.map(({ id, name }) => ({ value: id, label: name })),
        ...others.map(({ sha256, name }) => ({ value: `${ON_SHELF}${sha256}`, label: name })),
      ]}
      onChange={(path, label, value) => {
        const found =
          path === 'picture' ? others.find(({ sha256 }) => value === `${ON_SHELF}${sha256}`) : undefined;
        if (found) changeLook(`light by ${found.name}`, (l) => withSky(l, found));
        else change(label, 'look', `sky.${path}`, value);
      }}
      under={
        <>
          {look.sky.kind === 'picture' && Math.abs(shape - WIDE) > 0.05 && (
            <Quiet>
              It is {shape.toFixed(2)} times as wide as high. A picture of all directions is twice as wide as
              high; this one is stretched over them.
            </Quiet>
          )}
          {wrong && <Trouble>{wrong}</Trouble>}
        </>
      }
      actions={
        look.sky.kind === 'picture' ? (
          <Actions>
            <FileTrigger
              acceptedFileTypes={PICTURE_ENDINGS.map((e) => `.${e}`)}
              onSelect={(files) => files?.[0] && void take(files[0])}
            >
              <Button isDisabled={bring.isPending}>
                <FileUp size={13} /> {bring.isPending ? 'Bringing it in …' : 'Bring a picture'}
              </Button>
            </FileTrigger>
          </Actions>
        ) : undefined
      }
    />
  );
}
