// Run: a bake of the variant with what it keeps and costs, and the bakes that are there.
import { useMemo, useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { routes } from '@bramblemist/contracts/routes';
import styled from 'styled-components';
import { CHANNEL_NAMES } from '@bramblemist/core/base/channels';
import { hasDeposit } from '@bramblemist/core/recipe/kept';
import { windowOver } from '@bramblemist/core/grid/lattice';
import { voxelSizeAt, type Size } from '@bramblemist/core/recipe/sizes';
import { formatValue } from '@bramblemist/core/recipe/units';
import { change } from '../data/bench';
import { useCost, useStartBake } from '../data/queries/bakes';
import { usePlanned } from '../planning/use-planned';
import { BundleLink } from './BundleLink';
import { Caches } from './Caches';
import { DriftCheck } from './DriftCheck';
import { Preflight } from './Noticed';
import { ChoiceWord } from '../parts/controls';
import { SizeWord } from '../parts/SizeWord';
import { NextStep } from '../parts/NextStep';
import { Button, bytes, duration, Heading, Primary, Section, Trouble } from '../parts/ui';
import type { StageProps } from './context';

const PRECISIONS = [
  { value: 'half', label: 'half', doc: 'two bytes a value' },
  { value: 'float', label: 'full', doc: 'four bytes a value, exact' },
];
const PACKINGS = [
  { value: 'lz4', label: 'LZ4', doc: 'several times as quick to write, up to a tenth larger' },
  { value: 'zip', label: 'zip', doc: 'for programs whose OpenVDB has no Blosc' },
];
const Sentence = styled.div`
  font: 15px/1.62 ${({ theme }) => theme.serif};
  margin-bottom: 8px;
`;
const Table = styled.dl`
  display: grid;
  grid-template-columns: auto auto;
  gap: 3px 12px;
  margin: 0 0 12px;
  dt {
    color: ${({ theme }) => theme.quiet};
  }
  dd {
    margin: 0;
    text-align: right;
  }
`;
const Elsewhere = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
`;
const Channels = styled.fieldset`
  border: none;
  margin: 0 0 10px;
  padding: 0;
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 1px 12px;
  legend {
    padding: 0;
    font: 15px/1.62 ${({ theme }) => theme.serif};
  }
  label {
    display: contents;
    cursor: pointer;
  }
  label > span:first-child {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  label > span:last-child {
    text-align: right;
    color: ${({ theme }) => theme.quiet};
    font-variant-numeric: tabular-nums;
  }
  input {
    accent-color: ${({ theme }) => theme.thorn};
    margin: 0;
  }
`;

export function Run(props: StageProps): ReactNode {
  const { shot, variant, documents, bake, chooseBake } = props;
  const navigate = useNavigate();
  const { space, keep } = documents.recipe;
  const [size, setSize] = useState<Size>('working');
  const at = <SizeWord name="Size" value={size} onChange={setSize} />;
  const start = useStartBake(shot.id);
  const voxelSizeM = voxelSizeAt(documents.recipe, size);
  const cost = usePlanned(
    useMemo(
      () => ({ of: 'cost', recipe: documents.recipe, voxelSizeM }) as const,
      [documents.recipe, voxelSizeM],
    ),
  );
  const { nx, ny, nz } = windowOver(space.corner, space.size, voxelSizeM).lattice;
  const probe = useCost(documents.recipe, voxelSizeM);
  const known = probe.data && !probe.isPlaceholderData ? probe.data : null;
  const planned = known?.bytes ?? cost.answer?.bytes;
  const about = (value: string | undefined): string =>
    probe.isPlaceholderData || probe.isPending ? 'measuring …' : (value ?? 'not known');
  const isBaked =
    bake?.variantId === variant.id &&
    bake.job?.state === 'done' &&
    bake.outOfDate.length === 0 &&
    bake.frames.length > 0;
  const baking = {
    isDisabled: start.isPending || cost.error !== null,
    onPress: () =>
      start.mutate(
        { variantId: variant.id, voxelSizeM, frames: { first: space.firstFrame, last: space.lastFrame } },
        { onSuccess: (made) => chooseBake(made.id) },
      ),
    children: `Bake ${space.lastFrame - space.firstFrame + 1} frames`,
  };
  return (
    <>
      <NextStep>
        {isBaked ? (
          <Primary onPress={() => void navigate(`/shots/${shot.id}/light`)}>Light bake {bake.id}</Primary>
        ) : (
          <Primary {...baking} />
        )}
      </NextStep>
      <Section>
        <Heading>
          Bake{' '}
          <small>
            frames {space.firstFrame}–{space.lastFrame}
          </small>
        </Heading>
        <Sentence>
          Variant {variant.number} at {at} size, voxels of {formatValue(voxelSizeM, 'm')}.
        </Sentence>
        <Channels>
          <legend>
            Kept as{' '}
            <ChoiceWord
              name="Precision"
              value={keep.precision}
              options={PRECISIONS}
              onChange={(value) => change('Keep: precision', 'recipe', 'keep.precision', value)}
            />{' '}
            floats, packed by{' '}
            <ChoiceWord
              name="Packing"
              value={keep.packing}
              options={PACKINGS}
              onChange={(value) => change('Keep: packing', 'recipe', 'keep.packing', value)}
            />
            :
          </legend>
          {CHANNEL_NAMES.filter((name) => name !== 'deposit' || hasDeposit(documents.recipe)).map((name) => {
            const always = name === 'density';
            const on = always || keep[name];
            return (
              <label key={name}>
                <span>
                  <input
                    type="checkbox"
                    checked={on}
                    disabled={always}
                    onChange={(e) => change(`Keep: ${name}`, 'recipe', `keep.${name}`, e.target.checked)}
                  />
                  {name}
                </span>
                <span>
                  {probe.data?.channels ? `${on ? '' : '+ '}${bytes(probe.data.channels[name])}` : '…'}
                </span>
              </label>
            );
          })}
        </Channels>
        <Table>
          <dt>voxels</dt>
          <dd>
            {((nx * ny * nz) / 1e6).toFixed(2)} million
            {space.medium === 'finer' && `, ${((8 * nx * ny * nz) / 1e6).toFixed(1)} million of the medium`}
          </dd>
          <dt>memory</dt>
          <dd>{planned === undefined ? '…' : bytes(planned)}</dd>
          <dt>time, about</dt>
          <dd>{about(probe.data && duration(probe.data.seconds))}</dd>
          <dt>disk, about</dt>
          <dd>{about(probe.data && bytes(probe.data.diskBytes))}</dd>
        </Table>
        <Preflight {...props} />
        {cost.error && <Trouble>{cost.error}</Trouble>}
        {start.error && <Trouble>{start.error.message}</Trouble>}
        <Elsewhere>
          {isBaked && <Button {...baking} />}
          <BundleLink href={routes.bakeBundle(variant.id, voxelSizeM)} />
        </Elsewhere>
      </Section>
      <DriftCheck {...props} />
      <Caches {...props} />
    </>
  );
}
