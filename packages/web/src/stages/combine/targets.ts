// What the words of a comp may point at: its layers, masks and files, and files of the shelf that it may
// take.
import { useState } from 'react';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import type { Combine, CompFile } from '@bramblemist/core/combine/combine';
import { kindFor, withFile } from '@bramblemist/core/combine/edit';
import { setAt } from '@bramblemist/core/recipe/paths';
import type { Setting } from '@bramblemist/core/recipe/settings';
import { gathered } from '../../data/gathered';
import { useBringFile, useFiles } from '../../data/queries/files';
import type { Choice } from '../../parts/controls';
import { newId } from '../page-parts';
import { changeComp } from './change-comp';

/** Before the content of a file that is on the shelf and not of the comp yet. */
const ON_SHELF = 'shelf:';

/** Kinds of files that a setting may point at, by its path. */
const WANTED: Readonly<Record<string, readonly CompFile['kind'][]>> = {
  'feed.file': ['picture', 'sequence', 'movie'],
  'bind.file': ['track'],
  table: ['table'],
};

export interface Targets {
  readonly of: (setting: Setting) => readonly Choice[];
  /** Takes a file of the shelf where one was chosen. @param at its place in the document */
  readonly takes: (at: string, value: unknown) => boolean;
  readonly infoOf: (file: CompFile) => FileInfo | undefined;
  /** Files of the shelf that the comp has not, and may have. */
  readonly others: readonly FileInfo[];
  /** Brings files in. @param then what is done with each, once it is there */
  readonly bring: (files: readonly File[], then: (id: string, file: CompFile) => void) => Promise<void>;
  /** What is coming in, with how much of it is there; null: nothing. */
  readonly coming: { readonly name: string; readonly part: number } | null;
  readonly wrong: readonly string[];
}

export function useTargets(comp: Combine): Targets {
  const shelf = useFiles();
  const bringing = useBringFile();
  const [coming, setComing] = useState<Targets['coming']>(null);
  const [wrong, setWrong] = useState<readonly string[]>([]);
  const all = (shelf.data ?? []).filter(({ report }) => kindFor(report) !== null);
  const others = all.filter(({ sha256 }) => !comp.files.some((f) => f.sha256 === sha256));
  const bring = async (files: readonly File[], then: (id: string, file: CompFile) => void): Promise<void> => {
    setWrong([]);
    for (const file of await gathered(files)) {
      setComing({ name: file.name, part: 0 });
      try {
        const info = await bringing.mutateAsync({
          file,
          onPart: (part) => setComing({ name: file.name, part }),
        });
        const id = newId();
        let taken = id;
        let own: CompFile | undefined;
        changeComp(`bring in ${info.name}`, (c) => {
          const next = withFile(c, id, info);
          taken = next.id;
          own = next.comp.files.find((f) => f.id === next.id);
          return next.comp;
        });
        if (own) then(taken, own);
      } catch (error) {
        setWrong((list) => [...list, (error as Error).message]);
      }
    }

    setComing(null);
  };

  return {
    of: (setting) => {
      if (setting.kind !== 'reference') return [];
      const [to] = setting.to;
      if (to === 'layers') return comp.layers.map(({ id, name }) => ({ value: id, label: name }));
      if (to === 'masks') return comp.masks.map(({ id, name }) => ({ value: id, label: name }));
      const kinds = WANTED[setting.path] ?? [];
      return [
        ...comp.files
          .filter(({ kind }) => kinds.includes(kind))
          .map(({ id, name }) => ({ value: id, label: name })),
        ...others
          .filter(({ report }) => kinds.includes(kindFor(report)!))
          .map(({ sha256, name }) => ({ value: `${ON_SHELF}${sha256}`, label: name })),
      ];
    },
    takes: (at, value) => {
      const found = others.find(({ sha256 }) => value === `${ON_SHELF}${sha256}`);
      if (found)
        changeComp(`take ${found.name}`, (c) => {
          const next = withFile(c, newId(), found);
          return setAt(next.comp, at, next.id);
        });
      return found !== undefined;
    },
    infoOf: (file) => all.find(({ sha256 }) => sha256 === file.sha256),
    others,
    bring,
    coming,
    wrong,
  };
}
