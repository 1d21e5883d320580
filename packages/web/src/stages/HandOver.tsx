// Hand over: everything of a bake in one package.
import { Download } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { frameName, fileStem } from '@bramblemist/core/cache/manifest';
import { routes } from '@bramblemist/contracts/routes';
import { bytes, Heading, LinkButton, Quiet, Section } from '../parts/ui';
import { combinesOf, rendersOf } from './made';
import type { StageProps } from './context';

const List = styled.ul`
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
  li {
    padding: 5px 0;
    border-top: 1px solid ${({ theme }) => theme.line};
  }
  code {
    font:
      12px ui-monospace,
      monospace;
    color: ${({ theme }) => theme.quiet};
    display: block;
  }
`;

export function HandOver(props: StageProps): ReactNode {
  const { bake, shot } = props;
  if (!bake || bake.frames.length === 0) {
    return (
      <Section>
        <Heading>Package</Heading>
        <Quiet>There is nothing to hand over yet: bake the shot in Run first.</Quiet>
      </Section>
    );
  }

  const renders = rendersOf(props).filter((r) => r.frames.length);
  const combines = combinesOf(props).filter((c) => c.frames.length);
  const stem = fileStem(bake.recipe.name);
  const names = (frames: readonly number[], extension: string, of = stem): string => {
    const first = frameName(of, frames[0], extension);
    return frames.length === 1 ? first : `${first} … ${frameName(of, frames[frames.length - 1], extension)}`;
  };

  const frames = bake.frames.map((f) => f.frame);
  return (
    <Section>
      <Heading>
        Package <small>bake {bake.id}</small>
      </Heading>
      <List>
        <li>
          {frames.length} volumes, {bytes(bake.bytes)}
          <code>volumes/{names(frames, 'vdb')}</code>
        </li>
        {renders.map((r) => (
          <li key={`r${r.id}`}>
            Render {r.id}, {r.frames.length} × EXR and PNG
            <code>
              render_{r.id}/{names(r.frames, 'exr')}
            </code>
          </li>
        ))}
        {combines.map((c) => (
          <li key={`c${c.id}`}>
            Comp {c.id}, {c.frames.length} × EXR and PNG
            <code>
              combine_{c.id}/{names(c.frames, 'exr', fileStem(c.settings.name))}
            </code>
          </li>
        ))}
        <li>
          A scene for other programs: volumes, cameras, lights, obstacles<code>scene.usda, scene.glb</code>
        </li>
        <li>
          What made it, and readings of every frame<code>manifest.json</code>
        </li>
        <li>
          A sheet that says what is in it, and checksums of all of it
          <code>read-me.html, checksums.sha256</code>
        </li>
      </List>
      <LinkButton href={routes.package(bake.id)} download={`${fileStem(shot.name)}_bake${bake.id}.zip`}>
        <Download size={15} /> Download the package
      </LinkButton>
      {renders.length === 0 && (
        <Quiet style={{ marginTop: 10 }}>No pictures are in it yet; render some in Light.</Quiet>
      )}
    </Section>
  );
}
