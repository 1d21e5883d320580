// The one switch between the sizes of a shot.
import type { ReactNode } from 'react';
import { SIZE_DOCS, SIZES, type Size } from '@bramblemist/core/recipe/sizes';
import { ChoiceWord } from './controls';

const OPTIONS = SIZES.map((value) => ({ value, label: value, doc: SIZE_DOCS[value] }));

export function SizeWord({
  name,
  value,
  onChange,
}: {
  name: string;
  value: Size;
  onChange: (size: Size) => void;
}): ReactNode {
  return <ChoiceWord name={name} value={value} options={OPTIONS} onChange={(v) => onChange(v as Size)} />;
}
