// Places to look from: the whole domain, the shot's camera, and views that are kept by name.
import { Trash2 } from 'lucide-react';
import { useState, type ReactNode, type RefObject } from 'react';
import styled from 'styled-components';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { partOf, type NumberSetting } from '@bramblemist/core/recipe/settings';
import { change } from '../data/bench';
import { putNumbers } from '../data/keyed';
import { useChangeShot } from '../data/queries/shot';
import { useView } from '../data/view';
import { NumberControl } from '../parts/NumberControl';
import { Plain, Quiet, Trouble } from '../parts/ui';
import type { ViewportHandle } from '../viewport/Viewport';

const Row = styled.p`
  display: flex;
  justify-content: space-between;
  gap: 8px;
`;
const Name = styled.input`
  width: 100%;
  background: transparent;
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 4px;
  padding: 3px 8px;
`;
const tidy = (v: readonly number[]): [number, number, number] =>
  v.map((x) => Number(x.toFixed(4))) as [number, number, number];
const FOCAL = partOf(LOOK.parts, 'camera').settings.find((s) => s.path === 'focal') as NumberSetting;

export function Views({
  shot,
  look,
  handle,
}: {
  shot: ShotInfo;
  look: Look;
  handle: RefObject<ViewportHandle | null>;
}): ReactNode {
  const store = useChangeShot(shot);
  const [name, setName] = useState('');
  const keep = (): void => {
    const { at } = useView.getState();
    if (!at) return;
    const called = name.trim() || `view ${shot.views.length + 1}`;
    store.mutate({
      views: [
        ...shot.views.filter((v) => v.name !== called),
        { name: called, eye: tidy(at.eye), target: tidy(at.target), focal: look.camera.focal },
      ],
    });
    setName('');
  };

  const toCamera = (): void => {
    const { at } = useView.getState();
    if (!at) return;
    const [eye, target] = [tidy(at.eye), tidy(at.target)];
    const values = Object.fromEntries(
      [0, 1, 2].flatMap((a) => [
        [`eye.${a}`, eye[a]],
        [`target.${a}`, target[a]],
      ]),
    );
    putNumbers('look', 'the shot camera', 'camera', 'camera', values);
  };

  return (
    <>
      {shot.views.length === 0 && (
        <Quiet>None kept yet. Turn the scene to where you want to come back to, and keep it.</Quiet>
      )}
      {shot.views.map((v) => (
        <Row key={v.name}>
          <Plain onPress={() => handle.current?.lookFrom(v)}>{v.name}</Plain>
          <Plain
            aria-label={`Remove ${v.name}`}
            onPress={() => store.mutate({ views: shot.views.filter((w) => w.name !== v.name) })}
          >
            <Trash2 size={13} />
          </Plain>
        </Row>
      ))}
      <Name
        aria-label="Name of this view"
        placeholder="name of this view"
        value={name}
        maxLength={60}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') keep();
        }}
      />
      <Row>
        <Plain onPress={keep}>Keep this view</Plain>
        <Plain onPress={toCamera}>Make it the shot camera</Plain>
      </Row>
      <Row>
        <Quiet as="span">focal length</Quiet>
        <span>
          <NumberControl
            setting={FOCAL}
            name="Focal length"
            value={look.camera.focal}
            frameRate={24}
            onChange={(v) => change('focal length', 'look', 'camera.focal', v)}
          />
        </span>
      </Row>
      {store.error && <Trouble>{store.error.message}</Trouble>}
    </>
  );
}
