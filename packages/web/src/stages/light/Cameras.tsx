// The shot's camera and further ones, and those that were tracked or animated elsewhere.
import { Camera, CopyPlus, Eye, EyeOff, FileUp, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { FilmCamera } from '@bramblemist/core/files/film-camera';
import { withFilmCamera } from '@bramblemist/core/look/film-camera';
import { cameraAlone, LOOK, type CameraSettings, type Look } from '@bramblemist/core/look/look';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change, useBench } from '../../data/bench';
import { useThrough } from '../../data/camera';
import { ChoiceWord } from '../../parts/controls';
import { Ingredient } from '../../parts/Ingredient';
import { Heading, Plain, Quiet, Trouble } from '../../parts/ui';
import { Actions, newId } from '../page-parts';
import { changeLook } from './change-look';
import type { LookPartsProps } from './Lights';

const Tools = styled.span`
  display: inline-flex;
  gap: 10px;
`;
const UNITS = [
  { value: '1', label: 'metres' },
  { value: '0.01', label: 'centimetres' },
];

/** The cameras of a file, by its ending. */
async function camerasIn(file: File): Promise<readonly FilmCamera[]> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  // their readers are large, and few shots bring a camera
  if (/\.csv$/i.test(file.name)) {
    const { readCsvCamera } = await import('@bramblemist/core/files/csv/camera');
    return [readCsvCamera(bytes, file.name.replace(/\.csv$/i, ''))];
  }

  const { readGltfCameras } = await import('@bramblemist/core/files/gltf/camera');
  return readGltfCameras(bytes);
}

/** A further camera with these settings. */
function withCamera(look: Look, camera: CameraSettings, name: string, id: string): Look {
  const part = LOOK.defaultPart<Look['cameras'][number]>('cameras', { id, name });
  return { ...look, cameras: [...look.cameras, { ...part, ...camera, id, name, on: true }] };
}

export function Cameras({
  look,
  frameRate,
  keysFor,
  space,
}: LookPartsProps & { space: Recipe['space'] }): ReactNode {
  const [unit, setUnit] = useState('1');
  const [said, setSaid] = useState<{ tone: 'well' | 'wrong'; text: string } | null>(null);
  const wanted = useThrough((s) => s.camera);
  const seen = look.cameras.find(({ id }) => id === wanted) ?? null;
  const through = seen?.id ?? null;
  const bring = async (file: File): Promise<void> => {
    try {
      const films = await camerasIn(file);
      const now = useBench.getState().documents!.look;
      // the first becomes the shot's own; others stand beside it
      const next = films.reduce((l, film, n) => {
        if (n === 0) return withFilmCamera(l, film, space, Number(unit));
        const id = newId();
        return withFilmCamera(withCamera(l, l.camera, film.name, id), film, space, Number(unit), id);
      }, now);
      changeLook(`camera of ${file.name}`, () => next);
      const keys = next.curves.filter(({ path }) => path.startsWith('camera/')).length;
      setSaid({
        tone: 'well',
        text:
          `${films[0].name} is the shot camera now${keys === 0 ? ', and stands still' : ''}` +
          `${films.length > 1 ? `; ${films.length - 1} more stand beside it` : ''}.`,
      });
    } catch (error) {
      setSaid({ tone: 'wrong', text: `${file.name}: ${(error as Error).message}` });
    }
  };

  const throughOf = (id: string | null): ReactNode => (
    <Plain aria-pressed={through === id} onPress={() => useThrough.setState({ camera: id })}>
      <Camera size={13} /> {through === id ? 'Looked through' : 'Look through'}
    </Plain>
  );
  return (
    <>
      <Heading>
        Cameras
        <Tools>
          <Plain
            aria-label="Add a camera"
            onPress={() => {
              const id = newId();
              const camera = cameraAlone(seen ?? look.camera);
              changeLook('add a camera', (l) => withCamera(l, camera, `Camera ${l.cameras.length + 2}`, id));
            }}
          >
            <CopyPlus size={13} /> Add
          </Plain>
          <FileTrigger
            acceptedFileTypes={['.glb', '.gltf', '.csv']}
            onSelect={(files) => files?.[0] && void bring(files[0])}
          >
            <Plain aria-label="Bring a film camera">
              <FileUp size={13} /> Bring
            </Plain>
          </FileTrigger>
        </Tools>
      </Heading>
      {said?.tone === 'wrong' && <Trouble>{said.text}</Trouble>}
      {said?.tone === 'well' && <Quiet>{said.text}</Quiet>}
      <Ingredient
        part={partOf(LOOK.parts, 'camera')}
        values={look.camera}
        frameRate={frameRate}
        keysOf={keysFor('camera')}
        onChange={(path, label, value) => change(label, 'look', `camera.${path}`, value)}
        under={
          <Quiet as="div">
            A film camera comes as glTF, or as a CSV table of frames with matrices or places, in{' '}
            <ChoiceWord name="Unit of a film camera" value={unit} options={UNITS} onChange={setUnit} />.
          </Quiet>
        }
        actions={look.cameras.length > 0 ? <Actions>{throughOf(null)}</Actions> : undefined}
      />
      {look.cameras.map((camera, n) => (
        <Ingredient
          key={camera.id}
          part={partOf(LOOK.parts, 'cameras')}
          values={camera}
          frameRate={frameRate}
          keysOf={keysFor('cameras', camera.id)}
          onChange={(path, label, value) => change(label, 'look', `cameras.${n}.${path}`, value)}
          actions={
            <Actions>
              {throughOf(camera.id)}
              <Plain
                onPress={() =>
                  change(`${camera.name} ${camera.on ? 'off' : 'on'}`, 'look', `cameras.${n}.on`, !camera.on)
                }
              >
                {camera.on ? <EyeOff size={13} /> : <Eye size={13} />} {camera.on ? 'Turn off' : 'Turn on'}
              </Plain>
              <Plain
                onPress={() =>
                  changeLook(`remove ${camera.name}`, (l) => ({
                    ...l,
                    cameras: l.cameras.filter(({ id }) => id !== camera.id),
                    curves: l.curves.filter((c) => !c.path.startsWith(`cameras/${camera.id}/`)),
                  }))
                }
              >
                <Trash2 size={13} /> Remove
              </Plain>
            </Actions>
          }
        />
      ))}
    </>
  );
}
