// Passes: which are written, what they take, and which one the window shows.
import { Check } from 'lucide-react';
import type { ReactNode } from 'react';
import { ToggleButton } from 'react-aria-components';
import styled from 'styled-components';
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { bytesOfFrame, bytesOfPass, layersOf, type PassName } from '@bramblemist/core/look/look-at-pass';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { ChoiceWord } from '../../parts/controls';
import { bytes, Quiet } from '../../parts/ui';
import { useLightbox } from '../../picture/use-picture';

const Chips = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 8px 0;
`;
const Chip = styled(ToggleButton)`
  display: inline-flex;
  align-items: center;
  gap: 4px;
  min-height: 24px;
  padding: 2px 9px;
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 12px;
  background: none;
  color: ${({ theme }) => theme.text};
  font: 13px/1.3 ${({ theme }) => theme.sans};
  cursor: pointer;
  &[data-selected] {
    border-color: ${({ theme }) => theme.thorn};
    background: ${({ theme }) => theme.thorn}33;
  }
  &[data-disabled] {
    opacity: 0.45;
    cursor: default;
  }
  &[data-focus-visible] {
    outline: 2px solid ${({ theme }) => theme.thorn};
    outline-offset: 1px;
  }
`;

/** Channels of a bake that passes are made of. */
const MADE_OF: Readonly<Partial<Record<PassName, string>>> = {
  motion: 'velocity',
  colour: 'colour',
  temperature: 'temperature',
  age: 'age',
};

export function Passes({ look, bake }: { look: Look; bake: BakeInfo | null }): ReactNode {
  const { layer } = useLightbox();
  const { settings } = partOf(LOOK.parts, 'passes');
  const on = settings.map(({ path }) => path as PassName).filter((pass) => look.passes[pass]);
  const layers = layersOf(look);
  const shown = layer !== null && layers.includes(layer) ? layer : null;
  return (
    <div>
      <Quiet as="div">
        Files hold the beauty and {on.length === 0 ? 'nothing besides' : 'the passes that are on'}: about{' '}
        {bytes(bytesOfFrame(look))} a frame before it is packed.
      </Quiet>
      <Chips role="group" aria-label="Passes">
        {settings.map(({ path, label, doc }) => {
          const pass = path as PassName;
          const channel = MADE_OF[pass];
          const isMissing = channel !== undefined && bake !== null && !bake.channels.includes(channel);
          const why = isMissing
            ? ` This bake does not hold ${channel}: keep it in Set up and bake again.`
            : '';
          return (
            <Chip
              key={path}
              isSelected={look.passes[pass]}
              isDisabled={isMissing && !look.passes[pass]}
              onChange={(value) => change(`Passes: ${label}`, 'look', `passes.${path}`, value)}
            >
              <span title={`${doc}${why} ${bytesOfPass(look, pass)} bytes a pixel before it is packed.`}>
                {label}
              </span>
              {look.passes[pass] && <Check size={13} aria-hidden />}
            </Chip>
          );
        })}
      </Chips>
      <Quiet as="div">
        The window shows{' '}
        <ChoiceWord
          name="What the window shows"
          value={shown ?? ''}
          options={[
            { value: '', label: 'the beauty' },
            ...layers.map((name) => ({ value: name, label: name })),
          ]}
          onChange={(name) => useLightbox.setState({ layer: name === '' ? null : name })}
        />
        .
      </Quiet>
    </div>
  );
}
