// A colour of linear light as a swatch: pressed, it unfolds a picker and its three numbers.
import type { ReactNode } from 'react';
import {
  Button,
  ColorArea,
  ColorPicker,
  ColorSlider,
  ColorThumb,
  Dialog,
  DialogTrigger,
  parseColor,
  Popover,
  SliderTrack,
  type Color,
} from 'react-aria-components';
import styled from 'styled-components';
import { decodeSrgb, encodeSrgb } from '@bramblemist/core/look/picture';
import { unfolded } from './ui';

export type Rgb = readonly [number, number, number];

const Chip = styled(Button)<{ $colour: string }>`
  width: 30px;
  height: 17px;
  padding: 0;
  border-radius: 9px;
  border: 1px solid ${({ theme }) => theme.line};
  background: ${({ $colour }) => $colour};
  vertical-align: -3px;
  cursor: pointer;
`;
const Panel = styled(Popover)`
  ${unfolded}
  padding: 12px;
`;
const Column = styled(Dialog)`
  display: grid;
  gap: 10px;
  width: 196px;
  outline: none;
`;
const Area = styled(ColorArea)`
  width: 196px;
  height: 140px;
  border-radius: 4px;
`;
const Track = styled(SliderTrack)`
  width: 196px;
  height: 16px;
  border-radius: 8px;
`;
const Thumb = styled(ColorThumb)`
  width: 14px;
  height: 14px;
  border: 2px solid #fff;
  border-radius: 50%;
  box-shadow: 0 0 0 1px #0008;
  top: 50%;
  left: 50%;
`;
const Numbers = styled.div`
  display: flex;
  justify-content: space-between;
`;

/** The colour at its brightest, as a screen has it, and how far above a screen’s white it goes. */
function shownOf(rgb: Rgb): { readonly colour: Color; readonly over: number } {
  const over = Math.max(1, ...rgb);
  const [r, g, b] = rgb.map((v) => Math.round(255 * encodeSrgb(v / over)));
  return { colour: parseColor(`rgb(${r}, ${g}, ${b})`).toFormat('hsb'), over };
}

/**
 * @param over what the picked colour is multiplied by: colours of light may be brighter than white
 */
function linearOf(colour: Color, over: number): Rgb {
  const rgb = colour.toFormat('rgb');
  const part = (channel: 'red' | 'green' | 'blue'): number =>
    Number((over * decodeSrgb(rgb.getChannelValue(channel) / 255)).toPrecision(3));
  return [part('red'), part('green'), part('blue')];
}

export function Swatch({
  name,
  value,
  onChange,
  numbers,
}: {
  name: string;
  value: Rgb;
  onChange: (value: Rgb) => void;
  /** Controls of the three parts, shown under the picker. */
  numbers: ReactNode;
}): ReactNode {
  const { colour, over } = shownOf(value);
  return (
    <DialogTrigger>
      <Chip aria-label={`${name}: pick a colour`} $colour={colour.toString('css')} />
      <Panel placement="bottom start">
        <Column aria-label={name}>
          <ColorPicker value={colour} onChange={(picked) => onChange(linearOf(picked, over))}>
            <Area colorSpace="hsb" xChannel="saturation" yChannel="brightness">
              <Thumb />
            </Area>
            <ColorSlider channel="hue" colorSpace="hsb" aria-label="Hue">
              <Track>
                <Thumb />
              </Track>
            </ColorSlider>
          </ColorPicker>
          <Numbers>{numbers}</Numbers>
        </Column>
      </Panel>
    </DialogTrigger>
  );
}
