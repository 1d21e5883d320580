// Pictures that a look is made with: those that it has, and those of the shelf that it may take.
import { FileUp } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { PICTURE_ENDINGS } from '@bramblemist/core/assets/imported';
import type { Look } from '@bramblemist/core/look/look';
import { withPicture } from '@bramblemist/core/presets/looks';
import type { Choice } from '../../parts/controls';
import { useBringFile, useFiles } from '../../data/queries/files';
import { Button, Trouble } from '../../parts/ui';
import { newId } from '../page-parts';
import { changeLook } from './change-look';

/** Before the content of a file that is on the shelf and not of the look yet. */
const ON_SHELF = 'shelf:';

export interface LookPictures {
  readonly targets: () => readonly Choice[];
  /** Takes a picture of the shelf where one was chosen. @param at such as sky.picture */
  readonly takes: (at: string, value: unknown) => boolean;
  /** The file of an id, as the shelf knows it. */
  readonly infoOf: (id: string) => FileInfo | undefined;
  /** Brings another one in. */
  readonly button: (at: string) => ReactNode;
  readonly trouble: ReactNode;
}

export function useLookPictures(look: Look): LookPictures {
  const shelf = useFiles();
  const bring = useBringFile();
  const [wrong, setWrong] = useState<string | null>(null);
  const pictures = (shelf.data ?? []).filter(({ report }) => report.kind === 'picture');
  const others = pictures.filter(({ sha256 }) => !look.files.some((f) => f.sha256 === sha256));
  const takeIt = (info: FileInfo, at: string): void =>
    changeLook(`take ${info.name}`, (l) => withPicture(l, info, at, newId()));
  const take = async (file: File, at: string): Promise<void> => {
    try {
      const info = await bring.mutateAsync({ file, onPart: () => undefined });
      if (info.report.kind !== 'picture') throw new Error(`${info.name} is no picture.`);
      takeIt(info, at);
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };

  return {
    targets: () => [
      ...look.files.map(({ id, name }) => ({ value: id, label: name })),
      ...others.map(({ sha256, name }) => ({ value: `${ON_SHELF}${sha256}`, label: name })),
    ],
    takes: (at, value) => {
      const found = others.find(({ sha256 }) => value === `${ON_SHELF}${sha256}`);
      if (found) takeIt(found, at);
      return found !== undefined;
    },
    infoOf: (id) => {
      const file = look.files.find((f) => f.id === id);
      return pictures.find(({ sha256 }) => sha256 === file?.sha256);
    },
    button: (at) => (
      <FileTrigger
        acceptedFileTypes={PICTURE_ENDINGS.map((e) => `.${e}`)}
        onSelect={(files) => files?.[0] && void take(files[0], at)}
      >
        <Button isDisabled={bring.isPending}>
          <FileUp size={13} /> {bring.isPending ? 'Bringing it in …' : 'Bring a picture'}
        </Button>
      </FileTrigger>
    ),
    trouble: wrong && <Trouble>{wrong}</Trouble>,
  };
}
