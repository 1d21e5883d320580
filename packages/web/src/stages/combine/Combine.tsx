// Combine: layers over one another. The window is the comp itself; frames are written on the server by the
// same kernels.
import { ClipboardPaste, Copy, Ruler } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { COMBINE, frameFor } from '@bramblemist/core/combine/combine';
import { combineText, pastedCombine } from '@bramblemist/core/combine/edit';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { Ingredient } from '../../parts/Ingredient';
import { Heading, Plain, Section, Trouble } from '../../parts/ui';
import { useAttempt } from '../../parts/use-attempt';
import type { StageProps } from '../context';
import { changeComp } from './change-comp';
import { CompFiles } from './CompFiles';
import { Layers } from './Layers';
import { Masks } from './Masks';
import { useTargets } from './targets';
import { Write } from './Write';
import { WriteFrames } from './WriteFrames';

const Tools = styled.span`
  display: inline-flex;
  gap: 10px;
`;

export function Combine(props: StageProps): ReactNode {
  const { combine: comp, recipe, look } = props.documents;
  const { wrong, attempt } = useAttempt();
  const targets = useTargets(comp);
  return (
    <>
      <WriteFrames shot={props.shot} comp={comp} />
      <Section>
        <Heading>
          Comp
          <Tools>
            <Plain
              aria-label="Take size, rate and range from the shot"
              onPress={() =>
                changeComp('take the shot’s frame', (c) => ({
                  ...c,
                  frame: { ...c.frame, ...frameFor(recipe, look) },
                }))
              }
            >
              <Ruler size={13} /> As the shot
            </Plain>
            <Plain
              aria-label="Copy the comp as text"
              onPress={() => attempt(() => navigator.clipboard.writeText(combineText(comp)))}
            >
              <Copy size={13} /> Copy
            </Plain>
            <Plain
              aria-label="Paste a comp"
              onPress={() =>
                attempt(async () => {
                  const next = pastedCombine(comp, await navigator.clipboard.readText());
                  changeComp('paste a comp', () => next);
                })
              }
            >
              <ClipboardPaste size={13} /> Paste
            </Plain>
          </Tools>
        </Heading>
        {wrong && <Trouble>{wrong}</Trouble>}
        <Ingredient
          part={partOf(COMBINE.parts, 'frame')}
          values={comp.frame}
          frameRate={comp.frame.rate}
          targets={targets.of}
          onChange={(path, label, value) => {
            if (!targets.takes(`frame.${path}`, value)) change(label, 'combine', `frame.${path}`, value);
          }}
        />
      </Section>
      <Layers {...props} targets={targets} />
      <Masks comp={comp} targets={targets} />
      <CompFiles comp={comp} targets={targets} />
      <Write {...props} />
    </>
  );
}
