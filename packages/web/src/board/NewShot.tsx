// The form that makes a shot of a production.
import { yupResolver } from '@hookform/resolvers/yup';
import type { ReactNode } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { newShot } from '@bramblemist/contracts/requests';
import { STARTING_POINTS } from '@bramblemist/core/presets/starting-points';
import { useNewShot } from '../data/queries/board';
import { Primary, Quiet, roundFieldStyle, Trouble } from '../parts/ui';

const Form = styled.form`
  display: flex;
  gap: 8px;
  align-items: center;
  input,
  select {
    ${roundFieldStyle}
  }
`;

/** The same rules as at the server's door. */
const resolver = yupResolver(newShot.pick(['name', 'example']));

export function NewShot({ productionId }: { productionId: number }): ReactNode {
  const create = useNewShot();
  const navigate = useNavigate();
  const { register, handleSubmit, control, formState } = useForm({
    resolver,
    defaultValues: { name: '', example: '' },
  });
  const { name, example } = useWatch({ control });
  const start = STARTING_POINTS.find((s) => s.key === example);
  const make = handleSubmit((values) =>
    create.mutate(
      { productionId, name: values.name, ...(values.example ? { example: values.example } : {}) },
      { onSuccess: (made) => void navigate(`/shots/${made.id}/set-up`) },
    ),
  );
  const fault = formState.errors.name?.message;
  return (
    <>
      <Form onSubmit={(e) => void make(e)} noValidate>
        <input
          {...register('name', { setValueAs: (text: string) => text.trim() })}
          aria-label="Name of the new shot"
          aria-invalid={fault !== undefined}
          placeholder="Name of the new shot"
        />
        <select {...register('example')} aria-label="Starts from">
          <option value="">an empty domain</option>
          {STARTING_POINTS.map((s) => (
            <option key={s.key} value={s.key}>
              {s.name.toLowerCase()}
            </option>
          ))}
        </select>
        <Primary type="submit" isDisabled={!name?.trim() || create.isPending}>
          New shot
        </Primary>
      </Form>
      {start && (
        <Quiet style={{ maxWidth: 620, marginTop: 8 }}>
          {start.about} {start.first}
        </Quiet>
      )}
      {fault && <Trouble>The name {fault}.</Trouble>}
      {create.error && <Trouble>{create.error.message}</Trouble>}
    </>
  );
}
