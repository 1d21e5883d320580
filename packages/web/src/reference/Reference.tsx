// The notebook's reference: a picture or a sequence beside the window or lined up with the camera, what of it
// is medium, and how the run measures against it, with the settings that are likely to bring it nearer.
import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { ReferenceUse } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { hintsFor, turned, type Hint } from '@bramblemist/core/analysis/knobs';
import { match, MATTE, MEASURES, type Match, type Matte } from '@bramblemist/core/analysis/measures';
import { number } from '@bramblemist/core/recipe/settings';
import { brickOf, useBricks } from '../data/bricks';
import { replace, useBench } from '../data/bench';
import { usePlayhead } from '../data/playhead';
import { useChangeShot, useUpload } from '../data/queries/shot';
import { useLive, type ShownBrick } from '../live/use-live';
import { ChoiceWord } from '../parts/controls';
import { NumberControl } from '../parts/NumberControl';
import { Heading, Plain, Quiet, Section, Trouble } from '../parts/ui';
import { useCalm } from '../reel/Reel';
import type { StageKey, StageProps } from '../stages/context';
import { namesOf } from './series';
import type { Measured, ToMeasure } from './messages';
import {
  chosenReference,
  pictureAt,
  referencesOf,
  useReferencePicture,
  type ReferenceItem,
} from './use-reference';
import { useMeasures } from './use-measures';

const Picture = styled.div`
  position: relative;
  border-radius: 3px;
  overflow: hidden;
  img,
  canvas {
    display: block;
    width: 100%;
  }
  canvas,
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
`;
const Sentence = styled.div`
  font: 15px/1.62 ${({ theme }) => theme.serif};
  margin: 4px 0;
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
  th,
  td {
    text-align: right;
    font-weight: 400;
    padding: 2px 0;
  }
  th:first-child {
    text-align: left;
  }
  thead th {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
  }
  td[colspan] {
    text-align: left;
    padding: 0 0 5px 8px;
    font: italic 13px/1.35 ${({ theme }) => theme.serif};
  }
`;
const PLACES = [
  { value: 'beside', label: 'beside the window' },
  { value: 'over', label: 'over it' },
  { value: 'under', label: 'under the medium' },
];
/** Frames before the one that is shown by which its front is measured, and how far apart. */
const BEFORE = 4;
const APART = 3;
const CALM_MS = 400;
const share = (path: string, label: string, value: number) => number(path, label, '%', [0, 100], value, '');

export function Reference(props: StageProps & { stage: StageKey }): ReactNode {
  const { shot } = props;
  const store = useChangeShot(shot);
  const upload = useUpload(shot.id);
  const picture = useReferencePicture(shot);
  const all = useMemo(() => referencesOf(shot), [shot]);
  const item = useMemo(() => chosenReference(shot), [shot]);
  const [measuring, setMeasuring] = useState(false);
  const [going, setGoing] = useState<string | null>(null);
  const use = shot.reference;
  const set = useCallback(
    (part: Partial<ReferenceUse>): void => store.mutate({ reference: { ...use, ...part } }),
    [store, use],
  );
  const bring = async (files: FileList | null): Promise<void> => {
    const named = namesOf([...(files ?? [])]);
    try {
      for (const [n, one] of named.entries()) {
        setGoing(named.length > 1 ? `${n + 1} of ${named.length}` : '…');
        await upload.mutateAsync(one);
      }

      if (named.length > 0) set({ of: named[0].series || undefined });
    } catch {
      // the upload says it
    }

    setGoing(null);
  };

  return (
    <Section>
      <Heading>
        Reference{' '}
        <span style={{ display: 'flex', gap: 6 }}>
          {picture && (
            <Plain aria-expanded={measuring} onPress={() => setMeasuring(!measuring)}>
              measure
            </Plain>
          )}
          <FileTrigger allowsMultiple acceptedFileTypes={['image/*']} onSelect={(files) => void bring(files)}>
            <Plain aria-label="Bring reference pictures">{going ?? '+ bring'}</Plain>
          </FileTrigger>
        </span>
      </Heading>
      {upload.error && <Trouble>{upload.error.message}</Trouble>}
      {store.error && <Trouble>{store.error.message}</Trouble>}
      {!picture || !item ? (
        <Quiet>No reference yet. Bring a picture, or the pictures of a clip, to hold the run against.</Quiet>
      ) : (
        <>
          {all.length > 1 && (
            <Sentence>
              <ChoiceWord
                name="Which reference"
                value={item.key}
                options={all.map((r) => ({ value: r.key, label: r.name }))}
                onChange={(of) => set({ of })}
              />
            </Sentence>
          )}
          {measuring ? (
            <Measuring {...props} item={item} src={picture.src} set={set} />
          ) : (
            <Picture>
              <img src={picture.src} alt={`Reference ${picture.name}`} />
            </Picture>
          )}
          <Sentence>
            Stands{' '}
            <ChoiceWord
              name="Where the reference stands"
              value={use.place ?? 'beside'}
              options={PLACES}
              onChange={(v) => set({ place: v as 'over' })}
            />
            {use.place === 'over' && (
              <>
                , seen at{' '}
                <NumberControl
                  setting={share('opacity', 'opacity', 50)}
                  name="Opacity of the reference"
                  value={Math.round(100 * (use.opacity ?? 0.5))}
                  frameRate={24}
                  onChange={(v) => set({ opacity: v / 100 })}
                />
              </>
            )}
            {item.pictures.length > 1 && (
              <>
                ; its picture{' '}
                <NumberControl
                  setting={number('first', 'first', '', [0, 100000], item.pictures[0].frame ?? 0, '')}
                  name="Picture of the first frame"
                  value={use.first ?? item.pictures[0].frame ?? 0}
                  frameRate={24}
                  onChange={(v) => set({ first: Math.round(v) })}
                />{' '}
                goes with the first frame
              </>
            )}
            .
          </Sentence>
          {use.place && use.place !== 'beside' && (
            <Quiet>It is lined up with the shot camera and seen while one looks through that.</Quiet>
          )}
        </>
      )}
    </Section>
  );
}

/** The frame that is shown and some before it, as far as they are there. */
function useBricksBefore(
  { bake, stage }: Pick<StageProps, 'bake'> & { stage: StageKey },
  wanted: boolean,
): readonly ShownBrick[] {
  const frame = usePlayhead((s) => s.frame);
  const fromBake = stage !== 'set-up' && bake !== null;
  const live = useLive((s) => (wanted && !fromBake ? s.frames : null));
  const kept = useBricks((s) => (wanted && fromBake ? s.kept : null));
  const found = useMemo(() => {
    const frames = Array.from({ length: BEFORE + 1 }, (_, n) => frame - APART * (BEFORE - n));
    return frames.flatMap((f) => {
      const baked = (): ShownBrick | null => (kept && bake ? brickOf(kept, bake.id, f) : null);
      return (live ? live.get(f) : baked()) ?? [];
    });
  }, [frame, live, kept, bake]);
  return useCalm(found, CALM_MS);
}

function Measuring(
  props: StageProps & {
    stage: StageKey;
    item: ReferenceItem;
    src: string;
    set: (part: Partial<ReferenceUse>) => void;
  },
): ReactNode {
  const { shot, documents, bake, stage, item, src, set } = props;
  const { recipe, look } = documents;
  const [matte, setMatte] = useState<Matte>(shot.reference.matte ?? MATTE);
  const [drawing, setDrawing] = useState<[number, number][] | null>(null);
  const shown = useBricksBefore({ bake, stage }, true);
  const first = recipe.space.firstFrame;
  const change = (m: Matte): void => {
    setMatte(m);
    set({ matte: m });
  };

  const wish = useMemo((): ToMeasure => {
    const { space } = recipe;
    const seconds = (APART * space.timeScale) / space.frameRate;
    const frame = shown[shown.length - 1]?.brick.frame ?? first;
    const pictures =
      item.pictures.length > 1
        ? [
            ...new Set(
              Array.from(
                { length: BEFORE + 1 },
                (_, n) => pictureAt(item, frame - APART * (BEFORE - n), first, shot.reference.first).id,
              ),
            ),
          ]
        : [item.pictures[0].id];
    return {
      recipe: bake && stage !== 'set-up' ? bake.recipe : recipe,
      look,
      matte,
      bricks: shown.map((s) => s.brick),
      brickSecondsApart: seconds,
      pictures: pictures.map((id) => routes.asset(id)),
      pictureSecondsApart: seconds,
    };
  }, [recipe, look, matte, shown, item, bake, stage, first, shot.reference.first]);
  const { measured, error } = useMeasures(wish);
  return (
    <>
      <Drawn src={src} matte={matte} measured={measured} drawing={drawing} setDrawing={setDrawing} />
      <Sentence>
        What is brighter than{' '}
        <NumberControl
          setting={share('from', 'none below', 35)}
          name="None below"
          value={Math.round(100 * matte.from)}
          frameRate={24}
          onChange={(v) => change({ ...matte, from: v / 100 })}
        />{' '}
        begins to be medium, at{' '}
        <NumberControl
          setting={share('to', 'all at', 90)}
          name="All at"
          value={Math.round(100 * matte.to)}
          frameRate={24}
          onChange={(v) => change({ ...matte, to: v / 100 })}
        />{' '}
        all of it is
        {drawing ? (
          <>
            ; press its outline’s corners in the picture, then{' '}
            <Plain
              style={{ textDecoration: 'underline' }}
              isDisabled={drawing.length < 3}
              onPress={() => {
                change({ by: 'outline', points: drawing, from: matte.from, to: matte.to });
                setDrawing(null);
              }}
            >
              close it
            </Plain>
          </>
        ) : (
          <Outlined
            by={matte.by}
            draw={() => setDrawing([])}
            whole={() => change({ by: 'luminance', from: matte.from, to: matte.to })}
          />
        )}
        .
      </Sentence>
      {error && <Trouble>{error}</Trouble>}
      {measured && <MatchTable measured={measured} {...props} />}
    </>
  );
}

/** The reference with its matte over it, and the outline that is drawn. */
function Drawn({
  src,
  matte,
  measured,
  drawing,
  setDrawing,
}: {
  src: string;
  matte: Matte;
  measured: Measured | null;
  drawing: [number, number][] | null;
  setDrawing: (points: [number, number][]) => void;
}): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = measured?.matte ?? null;
  useEffect(() => {
    const c = canvas.current;
    if (!c || !shown) return;
    c.width = shown.width;
    c.height = shown.height;
    const rgba = new Uint8ClampedArray(4 * shown.bytes.length);
    shown.bytes.forEach((v, n) => rgba.set([197, 139, 219, 0.75 * v], 4 * n));
    c.getContext('2d')!.putImageData(new ImageData(rgba, shown.width, shown.height), 0, 0);
  }, [shown]);
  const onPress = (e: PointerEvent<HTMLDivElement>): void => {
    if (!drawing) return;
    const r = e.currentTarget.getBoundingClientRect();
    const tidy = (v: number): number => Number(Math.min(1, Math.max(0, v)).toFixed(4));
    setDrawing([...drawing, [tidy((e.clientX - r.left) / r.width), tidy((e.clientY - r.top) / r.height)]]);
  };

  const points = drawing ?? (matte.by === 'outline' ? matte.points : []);
  return (
    <Picture onPointerDown={onPress} style={drawing ? { cursor: 'crosshair' } : {}}>
      <img src={src} alt="Reference with what of it is medium" draggable={false} />
      <canvas ref={canvas} aria-hidden />
      {points.length > 0 && (
        <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden>
          <polygon
            points={points.map((p) => p.join()).join(' ')}
            fill="none"
            stroke="#e6c45c"
            strokeWidth={1.5}
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      )}
    </Picture>
  );
}

const percent = (v: number): string => (100 * v).toPrecision(2);

function MatchTable({ measured, documents: { recipe } }: StageProps & { measured: Measured }): ReactNode {
  const matched = measured.reference && measured.run ? match(measured.reference, measured.run) : null;
  if (!matched)
    return (
      <Quiet>
        {measured.run ? 'The reference shows nothing.' : 'The run is not there yet at this frame.'}
      </Quiet>
    );
  const turn = ({ knob, factor }: Hint): void => {
    const { documents } = useBench.getState();
    const next = documents && turned(knob, documents.recipe, documents.look, factor);
    if (next) replace(`${knob.label} × ${factor}`, { ...documents, ...next });
  };

  return (
    <Table aria-label="The run against the reference">
      <thead>
        <tr>
          <th>
            match <strong>{Math.round(100 * matched.score)} %</strong>
          </th>
          <th>reference</th>
          <th>run</th>
          <th>alike</th>
        </tr>
      </thead>
      <tbody>
        {matched.parts.map((m) => (
          <MatchRow key={m.name} m={m} hints={hintsFor(m, recipe, 2)} turn={turn} />
        ))}
      </tbody>
    </Table>
  );
}

function MatchRow({
  m,
  hints,
  turn,
}: {
  m: Match;
  hints: readonly Hint[];
  turn: (hint: Hint) => void;
}): ReactNode {
  const { label, unit, doc } = MEASURES[m.name];
  return (
    <>
      <tr title={doc}>
        <th scope="row">
          {label}, {unit}
        </th>
        <td>{percent(m.reference)}</td>
        <td>{percent(m.run)}</td>
        <td>{Math.round(100 * m.score)} %</td>
      </tr>
      {hints.length > 0 && (
        <tr>
          <td colSpan={4}>
            likely:{' '}
            {hints.map((h, n) => (
              <span key={h.knob.key}>
                {n > 0 && ', '}
                <Plain style={{ textDecoration: 'underline' }} onPress={() => turn(h)}>
                  {h.knob.label} × {h.factor}
                </Plain>
              </span>
            ))}
          </td>
        </tr>
      )}
    </>
  );
}

/** Whether only an outline's inside counts, and what changes that. */
function Outlined({ by, draw, whole }: { by: string; draw: () => void; whole: () => void }): ReactNode {
  const edge = by === 'outline' ? 'an outline' : 'only inside an outline';
  return (
    <>
      {by === 'outline' ? ', inside of ' : ' '}
      <Plain style={{ textDecoration: 'underline' }} onPress={draw}>
        {edge}
      </Plain>
      {by === 'outline' && (
        <>
          {' '}
          <Plain onPress={whole}>all of the picture</Plain>
        </>
      )}
    </>
  );
}
