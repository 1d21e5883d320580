// Movies of a render or a combine: making them, looking at them, keeping them.
import { Download, Film } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import type { MovieInfo, MovieWanted } from '@bramblemist/contracts/payloads/comp';
import type { ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { useStartMovie } from '../data/queries/pictures';
import { AddMenu } from '../parts/AddMenu';
import { jobMark, timeLeft } from '../parts/Job';
import { bytes, LinkButton, Quiet, Trouble } from '../parts/ui';

const Shown = styled.video`
  display: block;
  width: 100%;
  border-radius: 3px;
  margin: 4px 0;
`;
const Line = styled.div`
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
`;

interface Way extends Omit<MovieWanted, 'note'> {
  readonly name: string;
  readonly when: string;
}
const WAYS: readonly Way[] = [
  {
    name: 'For review, with words',
    when: 'MP4: shot, variant, its note and the frame’s number are burnt in.',
    kind: 'review',
    burn: true,
  },
  { name: 'For review', when: 'MP4 (H.264), over black.', kind: 'review', burn: false },
  {
    name: 'With alpha',
    when: 'MOV (ProRes 4444), as an element for further work.',
    kind: 'prores',
    burn: false,
  },
  { name: 'With alpha, without loss', when: 'MOV (PNG, 16 bit): large.', kind: 'png', burn: false },
];
const CALLED = {
  review: 'MP4 for review',
  prores: 'MOV with alpha',
  png: 'MOV with alpha, without loss',
} as const;

export function Movies({
  of,
  id,
  shot,
  variant,
  frames,
}: {
  of: 'renders' | 'combines';
  id: number;
  shot: ShotInfo;
  variant: VariantInfo;
  frames: number;
}): ReactNode {
  const start = useStartMovie(shot.id);
  const own = shot.movies.filter((m) => (of === 'renders' ? m.renderId : m.combineId) === id);
  if (frames < 2 && own.length === 0) return null;
  return (
    <div>
      {frames > 1 && (
        <AddMenu
          label={`Make a movie of ${of === 'renders' ? 'render' : 'comp'} ${id}`}
          starters={WAYS}
          icon={<Film size={13} />}
          onAdd={({ kind, burn }) =>
            start.mutate({ of, id, kind, burn, note: burn ? variant.note.slice(0, 200) : '' })
          }
        >
          make a movie
        </AddMenu>
      )}
      {start.error && <Trouble>{start.error.message}</Trouble>}
      {own.map((m) => (
        <Made key={m.id} movie={m} />
      ))}
    </div>
  );
}

function Made({ movie: { id, settings, job, bytes: size } }: { movie: MovieInfo }): ReactNode {
  const file = routes.movieFile(id);
  return (
    <div>
      <Line>
        <Quiet as="span">
          {CALLED[settings.kind]}
          {settings.burn ? ', with words' : ''}
          {size === null ? ` ${job ? timeLeft(job) : ''}` : ` · ${bytes(size)}`}
        </Quiet>
        {size === null ? (
          jobMark(job)
        ) : (
          <LinkButton href={`${file}?keep`} download>
            <Download size={13} /> Keep
          </LinkButton>
        )}
      </Line>
      {size !== null && settings.kind === 'review' && (
        <Shown src={file} controls loop muted playsInline preload="metadata" aria-label={`Movie ${id}`} />
      )}
      {job?.message && <Trouble>{job.message}</Trouble>}
    </div>
  );
}
