// What would go wrong, what the run noticed, and the walk to what is missing: each with the change that would
// cure it, to be tried as a variant.
import { Flag } from 'lucide-react';
import { useMemo, useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import type { Finding, Link } from '@bramblemist/core/analysis/preflight';
import { setAt } from '@bramblemist/core/recipe/paths';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Fix } from '@bramblemist/core/record/incident';
import { goTo, usePlayhead } from '../data/playhead';
import { useBakeFrames } from '../data/queries/bakes';
import { useNewVariant } from '../data/queries/shot';
import { select } from '../data/selection';
import { useLive } from '../live/use-live';
import { Heading, Mark, Plain, Quiet, Section, Trouble } from '../parts/ui';
import { usePlanned } from '../planning/use-planned';
import { useNoticed } from '../readings/use-noticed';
import type { Source } from '../app/there';
import { reveal } from '../parts/reveal';
import type { StageProps } from './context';

const Card = styled.div`
  border-top: 1px solid ${({ theme }) => theme.line};
  padding: 6px 0;
  p {
    margin: 2px 0 0;
    font: 14px/1.35 ${({ theme }) => theme.serif};
  }
  em {
    color: ${({ theme }) => theme.quiet};
  }
`;
const Chain = styled.ol`
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  li {
    padding: 3px 0;
  }
  p {
    margin: 2px 0 0 18px;
    font: 14px/1.35 ${({ theme }) => theme.serif};
  }
`;

function useFindings(recipe: Recipe | null): ReturnType<typeof usePlanned<'findings'>> {
  return usePlanned(useMemo(() => recipe && { of: 'findings', recipe }, [recipe]));
}

/** Goes to a part of the page, or to the stage that it is in. */
function useGo(shotId: number): (part: string) => void {
  const navigate = useNavigate();
  return (part) => {
    if (part === 'light') return void navigate(`/shots/${shotId}/light`);
    select(part);
    reveal(part);
  };
}

const MARKS = { true: 'well', false: 'trouble', null: 'idle' } as const;

function ChainLink({ link, go }: { link: Link; go: (part: string) => void }): ReactNode {
  return (
    <li>
      <Mark state={MARKS[String(link.holds) as 'true']}>{link.name}</Mark>
      {link.holds === false && (
        <p>
          {link.says}{' '}
          {link.part && (
            <Plain style={{ textDecoration: 'underline' }} onPress={() => go(link.part)}>
              go there
            </Plain>
          )}
        </p>
      )}
    </li>
  );
}

/** Tries a change as a new variant of this one. */
function useTry(
  { shot, variant, documents: { recipe } }: StageProps,
  chooseVariant?: (id: number) => void,
): { tried: (fix?: Fix) => ReactNode; error: Error | null } {
  const create = useNewVariant(shot.id);
  const tryIt = (fix: Fix): void => {
    const changed = fix.settings.reduce((r, [path, value]) => setAt(r, path, value), recipe);
    create.mutate(
      { note: fix.label, from: variant.id, recipe: parseRecipe(changed) },
      { onSuccess: (made) => chooseVariant?.(made.id) },
    );
  };

  return {
    error: create.error,
    tried: (fix) =>
      fix && (
        <Plain
          style={{ whiteSpace: 'normal', textAlign: 'left' }}
          isDisabled={create.isPending}
          onPress={() => tryIt(fix)}
        >
          try it: {fix.label}
        </Plain>
      ),
  };
}

/** What would go wrong, before anything is run. */
function Before({
  list,
  go,
  tried,
}: {
  list: readonly Finding[];
  go: (part: string) => void;
  tried: (fix?: Fix) => ReactNode;
}): ReactNode {
  return list.map((f) => (
    <Card key={f.what}>
      <Mark state={f.level === 'stops' ? 'trouble' : 'stale'}>before it runs</Mark>{' '}
      <Plain onPress={() => go(f.part)}>go there</Plain>
      <p>
        {f.what} <em>{f.cure}</em> {tried(f.fix)}
      </p>
    </Card>
  ));
}

/** Before a bake: what would go wrong with it. */
export function Preflight(props: StageProps): ReactNode {
  const { answer: list, error } = useFindings(props.documents.recipe);
  const navigate = useNavigate();
  // what hinders its plan is told with its cost
  if (error) return null;
  if (!list) return <Quiet>Looking it over …</Quiet>;
  if (list.length === 0) return <Quiet>Nothing stands in its way.</Quiet>;
  return <Before list={list} go={() => void navigate(`/shots/${props.shot.id}/set-up`)} tried={() => null} />;
}

/** What the live run noticed, or a bake, and before either what would go wrong. */
export function Noticed(props: StageProps & { of: Source; chooseVariant: (id: number) => void }): ReactNode {
  const { recipe, look } = props.documents;
  const ofBake = props.of === 'bake';
  const { answer, error: incomplete } = useFindings(ofBake ? null : recipe);
  const before = (!ofBake && answer) || [];
  const [frames] = useBakeFrames([props.bake]);
  const noticed = useNoticed(props.of, frames);
  const { tried, error } = useTry(props, props.chooseVariant);
  const go = useGo(props.shot.id);
  const [asked, setAsked] = useState(false);
  return (
    <Section>
      <Heading>
        Incidents{' '}
        {!ofBake && (
          <Plain aria-expanded={asked} onPress={() => setAsked(!asked)}>
            why do I see nothing?
          </Plain>
        )}
      </Heading>
      {asked && <Chained recipe={recipe} look={look} go={go} />}
      {incomplete && <Quiet>The recipe is not complete: {incomplete}</Quiet>}
      {before.length + noticed.length === 0 && <Quiet>None so far.</Quiet>}
      <Before list={before} go={go} tried={tried} />
      {noticed.map(({ first, count }) => (
        <Card key={first.kind}>
          <Plain onPress={() => goTo(first.frame)}>
            <Flag size={12} /> frame {first.frame}
            {count > 1 ? `, in ${count} frames` : ''}
          </Plain>
          <p>
            {first.what} <em>{first.cure}</em> {tried(first.fix)}
          </p>
        </Card>
      ))}
      {error && <Trouble>{error.message}</Trouble>}
    </Section>
  );
}

function Chained({
  recipe,
  look,
  go,
}: {
  recipe: Recipe;
  look: StageProps['documents']['look'];
  go: (part: string) => void;
}): ReactNode {
  const frame = usePlayhead((s) => s.frame);
  const readings = useLive((s) => s.readings.get(frame) ?? null);
  const wish = useMemo(
    () => ({ of: 'chain', recipe, look, frame, readings }) as const,
    [recipe, look, frame, readings],
  );
  const links = usePlanned(wish).answer ?? [];
  const well = links.length > 0 && links.every((l) => l.holds);
  return (
    <>
      <Chain aria-label="From a source to the picture">
        {links.map((l) => (
          <ChainLink key={l.name} link={l} go={go} />
        ))}
      </Chain>
      {well && <Quiet>All of it holds at frame {frame}: what is there can be seen.</Quiet>}
    </>
  );
}
