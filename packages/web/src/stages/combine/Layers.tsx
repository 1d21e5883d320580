// The layers of a comp, top first: each with what feeds it, its operations in their order, and its mask.
import { CopyPlus, Eye, EyeOff, Layers2, SquareDashed, Trash2, Waypoints, X } from 'lucide-react';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { COMBINE, type Combine, type CompLayer, type CompOperation } from '@bramblemist/core/combine/combine';
import {
  calledOperation,
  duplicated,
  emptied,
  kindFor,
  movedTo,
  withFile,
  withLayer,
  withMask,
  withoutLayer,
  withoutOperation,
  withOperation,
  withTrack,
} from '@bramblemist/core/combine/edit';
import { OPERATION_KINDS } from '@bramblemist/core/combine/parts/operations';
import { partOf } from '@bramblemist/core/recipe/settings';
import type { LayerSeen } from '../../comp/messages';
import { measureGrainOf, useChosen, useComp } from '../../comp/use-comp';
import { change } from '../../data/bench';
import { useKeys } from '../../data/keyed';
import { usePlayhead } from '../../data/playhead';
import { useRenderFeed } from '../../data/queries/pictures';
import { AddMenu } from '../../parts/AddMenu';
import { ChoiceWord } from '../../parts/controls';
import { Ingredient } from '../../parts/Ingredient';
import { Ordered } from '../../parts/Ordered';
import { Button, Heading, Plain, Quiet, Section } from '../../parts/ui';
import type { StageProps } from '../context';
import { Actions, newId } from '../page-parts';
import { changeComp } from './change-comp';
import type { Targets } from './targets';

const Card = styled.div<{ $chosen: boolean }>`
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr);
  gap: 4px 10px;
  padding: 8px 0 8px 8px;
  border-top: 1px solid ${({ theme }) => theme.line};
  box-shadow: ${({ theme, $chosen }) => ($chosen ? `inset 3px 0 0 ${theme.thorn}` : 'none')};
`;
const Small = styled.canvas`
  width: 72px;
  height: 41px;
  border-radius: 3px;
  background: ${({ theme }) => theme.raised};
  margin-top: 4px;
  cursor: pointer;
`;
const Done = styled.div`
  position: relative;
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr) 18px;
  align-items: start;
`;
const Dot = styled.button<{ $on: boolean }>`
  width: 11px;
  height: 11px;
  margin: 8px 0 0 2px;
  padding: 0;
  border-radius: 6px;
  border: 1.5px solid ${({ theme }) => theme.lichen};
  background: ${({ theme, $on }) => ($on ? theme.lichen : 'none')};
  cursor: pointer;
`;
const Buttons = styled.div`
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  margin: 4px 0 2px;
`;
const Bringing = styled.span`
  display: inline-flex;
  gap: 8px;
`;

interface Starter {
  readonly name: string;
  readonly when: string;
}
type OperationKind = (typeof OPERATION_KINDS)[number][0];
const WHEN: Readonly<Record<OperationKind, string>> = {
  exposure: 'Brighter or darker, in stops.',
  tint: 'Multiplied by a colour.',
  levels: 'What becomes black and white, and what lies between.',
  curves: 'A drawn curve over brightness.',
  saturation: 'Greyer or more colourful, or other colours.',
  temperature: 'Warmer or colder, greener or more magenta.',
  blur: 'Softer all round.',
  smear: 'Softer along one line.',
  motion: 'Blurred along the way that each pixel goes.',
  sharpen: 'Small detail brought out.',
  glow: 'Light spills from what is bright.',
  grain: 'The noise of film or a sensor, to match the plate.',
  quiet: 'Noise taken out where pixels are alike.',
  edges: 'Taken back at its edges.',
  relight: 'One of its lights stronger, weaker or of another colour.',
  thin: 'As if the medium were thinner or thicker.',
  fog: 'The farther, the more of a colour.',
  table: 'A .cube file of colours.',
};
const OPERATIONS: readonly (Starter & { readonly kind: (typeof OPERATION_KINDS)[number][0] })[] =
  OPERATION_KINDS.map(([kind, label]) => ({
    kind,
    name: label[0].toUpperCase() + label.slice(1),
    when: WHEN[kind],
  }));

/** What text begins with: the comp and the frame, over a dark ground. */
const BEGINS_WRITTEN: Partial<CompLayer['feed']> = {
  kind: 'text',
  text: '{comp}\n{frame}',
  colour: [0.9, 0.9, 0.9],
  second: [0, 0, 0],
  ground: 60,
};

export function Layers(props: StageProps & { targets: Targets }): ReactNode {
  const { shot, documents, targets } = props;
  const { combine: comp } = documents;
  const seen = useComp((s) => s.news?.layers);
  const renders = shot.renders.filter((r) => r.frames.length > 0);
  const add = (label: string, given: Parameters<typeof withLayer>[2]): void => {
    const id = newId();
    changeComp(`add ${label}`, (c) => withLayer(c, id, given));
    useChosen.setState({ id });
  };

  const starters: readonly (Starter & { readonly add: () => void })[] = [
    {
      name: 'The newest render',
      when: 'Of this shot, whichever it is: a better one takes its place by itself.',
      add: () => add('the newest render', { name: 'Element', feed: { kind: 'render', render: 0 } }),
    },
    ...[...renders]
      .reverse()
      .slice(0, 6)
      .map((r) => ({
        name: `Render ${r.id}`,
        when:
          `${r.frames.length} ${r.frames.length === 1 ? 'frame' : 'frames'} of this shot, with its ` +
          'passes.',
        add: () => add(`render ${r.id}`, { name: `Render ${r.id}`, feed: { kind: 'render', render: r.id } }),
      })),
    ...comp.files
      .filter(({ kind }) => ['picture', 'sequence', 'movie'].includes(kind))
      .map((file) => ({
        name: file.name,
        when: 'One of the comp’s files.',
        add: () => add(file.name, { name: stem(file.name), feed: { kind: 'file', file: file.id } }),
      })),
    ...targets.others
      .filter(({ report }) => ['picture', 'pictures', 'movie'].includes(report.kind))
      .slice(0, 8)
      .map((info) => ({
        name: info.name,
        when: 'From the shelf of files.',
        add: () => {
          const id = newId();
          changeComp(`add ${info.name}`, (c) =>
            withLayer(c, id, { name: stem(info.name), feed: { kind: 'file' } }),
          );
          targets.takes('layers.0.feed.file', `shelf:${info.sha256}`);
          useChosen.setState({ id });
        },
      })),
    {
      name: 'Plain colour',
      when: 'The same everywhere: a ground for judging, or a wash.',
      add: () => add('a plain colour', { name: 'Plain', feed: { kind: 'plain' } }),
    },
    {
      name: 'Gradient',
      when: 'From one colour to another: a sky, haze that thickens downward.',
      add: () => add('a gradient', { name: 'Gradient', feed: { kind: 'gradient' } }),
    },
    {
      name: 'Text',
      when: 'A note or a slate for review; {frame} in it becomes the frame’s number.',
      add: () => add('text', { name: 'Text', feed: BEGINS_WRITTEN }),
    },
  ];
  return (
    <Section>
      <Heading>
        Layers
        <Bringing>
          {comp.layers.length > 0 && (
            <Plain
              aria-label="Take all layers away"
              onPress={() => changeComp('take all layers away', emptied)}
            >
              <SquareDashed size={13} /> Empty
            </Plain>
          )}
          <FileTrigger
            acceptedFileTypes={ACCEPTED}
            allowsMultiple
            onSelect={(files) => files && void bringLayers([...files], targets)}
          >
            <Button isDisabled={targets.coming !== null}>
              {targets.coming
                ? `${targets.coming.name} … ${Math.round(100 * targets.coming.part)} %`
                : 'Bring a plate'}
            </Button>
          </FileTrigger>
          <AddMenu label="Add a layer" starters={starters} onAdd={(s) => s.add()}>
            layer
          </AddMenu>
        </Bringing>
      </Heading>
      {comp.layers.length === 0 && (
        <Quiet>
          Nothing lies in the frame yet. Bring the plate, then add a render: the newest layer lies on top.
        </Quiet>
      )}
      {comp.layers.map((layer) => (
        <LayerCard
          key={layer.id}
          comp={comp}
          layer={layer}
          seen={seen?.find(({ id }) => id === layer.id)}
          targets={targets}
          renders={renders.map((r) => r.id)}
        />
      ))}
    </Section>
  );
}

const ACCEPTED = [
  '.mp4',
  '.mov',
  '.m4v',
  '.mkv',
  '.webm',
  '.avi',
  '.mxf',
  '.png',
  '.jpg',
  '.jpeg',
  '.webp',
  '.tif',
  '.tiff',
  '.dpx',
  '.exr',
  '.hdr',
  '.zip',
];
const stem = (name: string): string => name.replace(/\.[^.]+$/, '');

/** Pictures and movies become layers under all others. */
const bringLayers = (files: readonly File[], targets: Targets): Promise<void> =>
  targets.bring(files, (id, file) => {
    if (file.kind === 'track' || file.kind === 'table') return;
    const own = newId();
    changeComp(`add ${file.name}`, (c) => {
      const made = withLayer(c, own, { name: stem(file.name), feed: { kind: 'file', file: id } });
      return { ...made, layers: [...made.layers.slice(1), made.layers[0]] };
    });
    useChosen.setState({ id: own });
  });

function LayerCard({
  comp,
  layer,
  seen,
  targets,
  renders,
}: {
  comp: Combine;
  layer: CompLayer;
  seen: LayerSeen | undefined;
  targets: Targets;
  renders: readonly number[];
}): ReactNode {
  const chosen = useChosen((s) => s.id);
  const keysFor = useKeys('combine', comp);
  const n = comp.layers.findIndex(({ id }) => id === layer.id);
  const operations = comp.operations.filter((o) => o.layer === layer.id);
  const tracks = [
    ...comp.files
      .filter(({ kind }) => kind === 'track')
      .map(({ id, name }) => ({
        name,
        when: 'It moves as what was tracked.',
        bind: () => changeComp(`bind ${layer.name} to ${name}`, (c) => withTrack(c, layer.id, id)),
      })),
    ...targets.others
      .filter(({ report }) => kindFor(report) === 'track')
      .map((info) => ({
        name: info.name,
        when: 'From the shelf of files.',
        bind: () =>
          changeComp(`bind ${layer.name} to ${info.name}`, (c) => {
            const next = withFile(c, newId(), info);
            return withTrack(next.comp, layer.id, next.id);
          }),
      })),
  ];
  const isChosen = chosen === layer.id || operations.some(({ id }) => id === chosen);
  return (
    <Ordered
      list="layers"
      id={layer.id}
      name={layer.name}
      onDrop={(dragged) =>
        changeComp('order layers', (c) => ({ ...c, layers: movedTo(c.layers, dragged, layer.id) }))
      }
    >
      <Card $chosen={isChosen}>
        <Thumbnail seen={seen} name={layer.name} onPress={() => useChosen.setState({ id: layer.id })} />
        <div>
          <Ingredient
            part={partOf(COMBINE.parts, 'layers')}
            values={layer}
            frameRate={comp.frame.rate}
            targets={targets.of}
            keysOf={keysFor('layers', layer.id)}
            selected={false}
            onSelect={() => useChosen.setState({ id: layer.id })}
            onChange={(path, label, value) => {
              if (!targets.takes(`layers.${n}.${path}`, value))
                change(label, 'combine', `layers.${n}.${path}`, value);
            }}
            under={<Picks comp={comp} layer={layer} n={n} renders={renders} />}
            actions={
              <Actions>
                <Plain
                  onPress={() =>
                    change(`${layer.name} ${layer.on ? 'off' : 'on'}`, 'combine', `layers.${n}.on`, !layer.on)
                  }
                >
                  {layer.on ? <EyeOff size={13} /> : <Eye size={13} />} {layer.on ? 'Turn off' : 'Turn on'}
                </Plain>
                <Plain
                  onPress={() => changeComp(`duplicate ${layer.name}`, (c) => duplicated(c, layer.id, newId))}
                >
                  <CopyPlus size={13} /> Duplicate
                </Plain>
                <Plain onPress={() => changeComp(`remove ${layer.name}`, (c) => withoutLayer(c, layer.id))}>
                  <Trash2 size={13} /> Remove
                </Plain>
              </Actions>
            }
          />
          {operations.map((o) => (
            <Operation key={o.id} comp={comp} operation={o} targets={targets} />
          ))}
          {isChosen && (
            <Buttons>
              <AddMenu
                label={`Add an operation to ${layer.name}`}
                starters={OPERATIONS}
                onAdd={({ kind, name }) => {
                  const id = newId();
                  changeComp(`add ${name.toLowerCase()} to ${layer.name}`, (c) =>
                    withOperation(c, id, layer.id, kind),
                  );
                }}
              >
                operation
              </AddMenu>
              {layer.mask === '' && (
                <AddMenu
                  label={`Add a mask to ${layer.name}`}
                  starters={MASKS}
                  icon={<Layers2 size={13} />}
                  onAdd={({ given, name }) => {
                    const id = newId();
                    changeComp(`mask ${layer.name}`, (c) => {
                      const next = withMask(c, id, {
                        ...given,
                        name: `${layer.name}: ${name.toLowerCase()}`,
                        from: given.kind === 'taken' ? layer.id : '',
                      });
                      return {
                        ...next,
                        layers: next.layers.map((l) => (l.id === layer.id ? { ...l, mask: id } : l)),
                      };
                    });
                    useChosen.setState({ id });
                  }}
                >
                  mask
                </AddMenu>
              )}
              {layer.bind.how === 'free' && tracks.length > 0 && (
                <AddMenu
                  label={`Bind ${layer.name} to a track`}
                  starters={tracks}
                  icon={<Waypoints size={13} />}
                  onAdd={(t) => t.bind()}
                >
                  track
                </AddMenu>
              )}
            </Buttons>
          )}
        </div>
      </Card>
    </Ordered>
  );
}

const MASKS: readonly (Starter & { readonly given: Parameters<typeof withMask>[2] })[] = [
  { name: 'Drawn', when: 'An outline on the frame, with soft edges.', given: { kind: 'drawn' } },
  {
    name: 'From brightness',
    when: 'Where the layer is bright.',
    given: { kind: 'taken', channel: 'luminance', low: 0.1, high: 0.6 },
  },
  {
    name: 'From depth',
    when: 'By how far the layer is, m.',
    given: { kind: 'taken', channel: 'red', pass: 'depth', low: 2, high: 8 },
  },
];

/** What a layer may be fed by, chosen by name. */
function Picks({
  comp,
  layer,
  n,
  renders,
}: {
  comp: Combine;
  layer: CompLayer;
  n: number;
  renders: readonly number[];
}): ReactNode {
  const isRender = layer.feed.kind === 'render';
  const feed = useRenderFeed(isRender ? layer.feed.render || (renders.at(-1) ?? 0) : 0);
  if (!isRender) return null;
  const put = (label: string, path: string, value: unknown): void =>
    change(`${layer.name}: ${label}`, 'combine', `layers.${n}.feed.${path}`, value);
  const lights = (feed.data?.passes ?? []).filter((p) => p.startsWith('lights.')).map((p) => p.slice(7));
  return (
    <>
      {renders.length > 0 && (
        <Quiet>
          Of this shot:{' '}
          <ChoiceWord
            name={`Render of ${layer.name}`}
            value={String(layer.feed.render)}
            options={[
              { value: '0', label: 'the newest' },
              ...renders.map((id) => ({ value: String(id), label: `render ${id}` })),
            ]}
            onChange={(v) => put('render', 'render', Number(v))}
          />
        </Quiet>
      )}
      {feed.data && feed.data.passes.length > 0 && (
        <Quiet>
          Its picture or a pass:{' '}
          <ChoiceWord
            name={`Pass of ${layer.name}`}
            value={layer.feed.pass}
            options={[
              { value: '', label: 'the picture' },
              ...feed.data.passes.map((p) => ({ value: p, label: p })),
            ]}
            onChange={(v) => put('pass', 'pass', v)}
          />
        </Quiet>
      )}
      {lights.length > 0 && (
        <Plain
          onPress={() =>
            changeComp(`relight ${layer.name}`, (c) =>
              lights
                .filter(
                  (light) =>
                    !comp.operations.some(
                      (o) => o.layer === layer.id && o.kind === 'relight' && o.light === light,
                    ),
                )
                .reduce((all, light) => withOperation(all, newId(), layer.id, 'relight', { light }), c),
            )
          }
        >
          Relight by {lights.length === 1 ? 'its light' : `its ${lights.length} lights`}
        </Plain>
      )}
    </>
  );
}

function Operation({
  comp,
  operation,
  targets,
}: {
  comp: Combine;
  operation: CompOperation;
  targets: Targets;
}): ReactNode {
  const keysFor = useKeys('combine', comp);
  const n = comp.operations.findIndex(({ id }) => id === operation.id);
  const name = calledOperation(operation.kind);
  return (
    <Ordered
      list={`operations-${operation.layer}`}
      id={operation.id}
      name={name}
      onDrop={(dragged) =>
        changeComp('order operations', (c) => ({
          ...c,
          operations: movedTo(c.operations, dragged, operation.id),
        }))
      }
    >
      <Done>
        <Dot
          $on={operation.on}
          aria-pressed={operation.on}
          aria-label={`${name}: ${operation.on ? 'on' : 'off'}`}
          onClick={() =>
            change(`${name} ${operation.on ? 'off' : 'on'}`, 'combine', `operations.${n}.on`, !operation.on)
          }
        />
        <Ingredient
          part={partOf(COMBINE.parts, 'operations')}
          values={{ ...operation, name }}
          frameRate={comp.frame.rate}
          targets={targets.of}
          keysOf={keysFor('operations', operation.id)}
          onSelect={() => useChosen.setState({ id: operation.id })}
          under={operation.kind === 'grain' && <MatchGrain comp={comp} operation={operation} />}
          onChange={(path, label, value) => {
            if (!targets.takes(`operations.${n}.${path}`, value))
              change(label, 'combine', `operations.${n}.${path}`, value);
          }}
        />
        <Plain
          aria-label={`Remove ${name}`}
          onPress={() => changeComp(`remove ${name}`, (c) => withoutOperation(c, operation.id))}
        >
          <X size={12} />
        </Plain>
      </Done>
    </Ordered>
  );
}

/** Grain as the plate has it: the lowest layer that a file feeds. */
function MatchGrain({ comp, operation }: { comp: Combine; operation: CompOperation }): ReactNode {
  const [said, setSaid] = useState<string | null>(null);
  const plate = comp.layers.findLast(({ on, feed }) => on && feed.kind === 'file');
  if (!plate) return null;
  const match = async (): Promise<void> => {
    setSaid('Looking at it …');
    const found = await measureGrainOf(comp, usePlayhead.getState().frame, plate.id);
    setSaid(found ? null : `${plate.name} has no part that is flat enough to tell.`);
    if (!found) return;
    const { grain, dark, size } = found;
    const round = (v: number): number => Number(v.toPrecision(3));
    const own = { grain: grain.map(round), dark: round(dark), size: round(size), amount: 100 };
    changeComp(`match the grain of ${plate.name}`, (c) => ({
      ...c,
      operations: c.operations.map((o) => (o.id === operation.id ? ({ ...o, ...own } as CompOperation) : o)),
    }));
  };

  return (
    <>
      <Plain onPress={() => void match()}>Match the grain of {plate.name}</Plain>
      {said && <Quiet>{said}</Quiet>}
    </>
  );
}

function Thumbnail({
  seen,
  name,
  onPress,
}: {
  seen: LayerSeen | undefined;
  name: string;
  onPress: () => void;
}): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  const thumb = seen?.thumb ?? null;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !thumb) return;
    context.canvas.width = thumb.width;
    context.canvas.height = thumb.height;
    context.putImageData(
      new ImageData(thumb.bytes as Uint8ClampedArray<ArrayBuffer>, thumb.width, thumb.height),
      0,
      0,
    );
  }, [thumb]);
  return <Small ref={canvas} role="img" aria-label={`${name} at this frame`} onClick={onPress} />;
}
