// Corners of a path: a row of three numbers each, with one to add and one to take away.
import { Minus, Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { number } from '@bramblemist/core/recipe/settings';
import { NumberControl } from './NumberControl';
import { Plain } from './ui';

type Corner = readonly [number, number, number];
const Rows = styled.span`
  display: grid;
  justify-items: end;
  gap: 2px;
  > span {
    display: inline-flex;
    gap: 8px;
    align-items: center;
  }
`;
const PLACE = 'xyz'
  .split('')
  .map((axis) =>
    number(axis, axis, 'm', [-1000, 1000], 0, 'Place of the corner about the middle of the path.'),
  );

export function Points({
  name,
  value,
  frameRate,
  onChange,
}: {
  name: string;
  value: readonly Corner[];
  frameRate: number;
  onChange: (value: Corner[]) => void;
}): ReactNode {
  const last = value[value.length - 1];
  return (
    <Rows>
      {value.map((corner, n) => (
        <span key={n}>
          {PLACE.map((setting, a) => (
            <NumberControl
              key={a}
              setting={setting}
              name={`${name} ${n + 1} ${setting.label}`}
              value={corner[a]}
              frameRate={frameRate}
              onChange={(v) =>
                onChange(
                  value.map((c, m) =>
                    m === n ? (c.map((old, b) => (b === a ? v : old)) as unknown as Corner) : c,
                  ),
                )
              }
            />
          ))}
          <Plain
            aria-label={`Remove corner ${n + 1}`}
            isDisabled={value.length <= 2}
            onPress={() => onChange(value.filter((_, m) => m !== n))}
          >
            <Minus size={12} />
          </Plain>
        </span>
      ))}
      <Plain
        aria-label="Add a corner"
        isDisabled={value.length >= 64}
        onPress={() => onChange([...value, [last[0] + 0.2, last[1], last[2]]])}
      >
        <Plus size={12} /> corner
      </Plain>
    </Rows>
  );
}
