// The production's shots.
import { useState, type FormEvent, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { STARTING_POINTS } from '@bramblemist/core/presets/starting-points';
import { useBoard, useNewShot } from '../data/queries';
import { Primary, Quiet, Trouble } from '../parts/ui';
import { TopBar } from './TopBar';

const Page = styled.main`
  height: calc(100% - 46px);
  overflow: auto;
  padding: 28px 32px;
  h1 {
    font: italic 30px/1.2 ${({ theme }) => theme.serif};
  }
`;
const Grid = styled.ul`
  list-style: none;
  padding: 0;
  margin: 20px 0;
  display: grid;
  gap: 20px;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
`;
const Card = styled(Link)`
  display: block;
  text-decoration: none;
  background: ${({ theme }) => theme.panel};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 8px;
  overflow: hidden;
  height: 100%;
  &:hover {
    border-color: ${({ theme }) => theme.thorn};
  }
  img,
  .empty {
    display: block;
    width: 100%;
    aspect-ratio: 16 / 9;
    object-fit: cover;
    background: ${({ theme }) => theme.surround};
  }
  h2 {
    font: 600 18px/1.3 ${({ theme }) => theme.serif};
  }
  div.text {
    padding: 10px 14px 14px;
  }
`;
const Form = styled.form`
  display: flex;
  gap: 8px;
  align-items: center;
  input,
  select {
    background: ${({ theme }) => theme.panel};
    border: 1px solid ${({ theme }) => theme.line};
    border-radius: 14px;
    padding: 4px 12px;
    min-height: 28px;
  }
`;

export function Board(): ReactNode {
  const board = useBoard();
  const create = useNewShot();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [start, setStart] = useState('');
  const point = STARTING_POINTS.find((s) => s.key === start);
  const make = (e: FormEvent, productionId: number): void => {
    e.preventDefault();
    if (!name.trim()) return;
    create.mutate(
      { productionId, name: name.trim(), ...(start ? { example: start } : {}) },
      { onSuccess: (made) => void navigate(`/shots/${made.id}/set-up`) },
    );
  };

  return (
    <>
      <TopBar crumbs={[]} />
      <Page>
        {board.error && <Trouble>{board.error.message}</Trouble>}
        {board.isPending && <Quiet>Fetching the productions …</Quiet>}
        {board.data?.map((p) => (
          <section key={p.id} aria-label={p.name}>
            <h1>{p.name}</h1>
            <Quiet>{p.note}</Quiet>
            <Grid>
              {p.shots.map((s) => (
                <li key={s.id}>
                  <Card to={`/shots/${s.id}/set-up`}>
                    {s.picture ? <img src={s.picture} alt="" /> : <div className="empty" />}
                    <div className="text">
                      <h2>{s.name}</h2>
                      <Quiet>{s.note || 'No note yet.'}</Quiet>
                      <Quiet>
                        {s.variants} {s.variants === 1 ? 'variant' : 'variants'} · {s.bakes}{' '}
                        {s.bakes === 1 ? 'bake' : 'bakes'}
                      </Quiet>
                    </div>
                  </Card>
                </li>
              ))}
            </Grid>
            {p.shots.length === 0 && (
              <Quiet>No shots yet. Name the first one and choose what it starts from.</Quiet>
            )}
            <Form onSubmit={(e) => make(e, p.id)}>
              <input
                aria-label="Name of the new shot"
                placeholder="Name of the new shot"
                value={name}
                maxLength={120}
                onChange={(e) => setName(e.target.value)}
              />
              <select aria-label="Starts from" value={start} onChange={(e) => setStart(e.target.value)}>
                <option value="">an empty room</option>
                {STARTING_POINTS.map((s) => (
                  <option key={s.key} value={s.key}>
                    {s.name.toLowerCase()}
                  </option>
                ))}
              </select>
              <Primary type="submit" isDisabled={!name.trim() || create.isPending}>
                New shot
              </Primary>
            </Form>
            {point && (
              <Quiet style={{ maxWidth: 620, marginTop: 8 }}>
                {point.about} {point.first}
              </Quiet>
            )}
            {create.error && <Trouble>{create.error.message}</Trouble>}
          </section>
        ))}
      </Page>
    </>
  );
}
