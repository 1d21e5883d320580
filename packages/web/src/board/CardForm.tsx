// What can be written of a shot or a production on the board, in a sheet over it.
import { yupResolver } from '@hookform/resolvers/yup';
import type { ReactNode } from 'react';
import { Dialog, Heading } from 'react-aria-components';
import { useForm, type FieldErrors, type UseFormRegisterReturn } from 'react-hook-form';
import styled from 'styled-components';
import { changeCard, changeProduction } from '@bramblemist/contracts/requests';
import type { ProductionCard, ShotCard } from '@bramblemist/contracts/payloads/board';
import { useChangeCard, useChangeProduction } from '../data/queries/board';
import { Sheet, Veil } from '../parts/sheet';
import { Button, fieldStyle, Primary, Quiet, Trouble } from '../parts/ui';
import { STATUS_WORDS } from './filter';

const Form = styled.form`
  display: grid;
  gap: 12px;
  label {
    display: grid;
    gap: 4px;
    color: ${({ theme }) => theme.quiet};
  }
  .beside {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 12px;
  }
  .end {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
  input,
  select,
  textarea {
    ${fieldStyle}
    width: 100%;
    resize: vertical;
  }
`;

const TRIMMED = { setValueAs: (text: string) => text.trim() };

const faultOf = (errors: FieldErrors): string | null => {
  const [first] = Object.entries(errors);
  return first ? `The ${first[0] === 'due' ? 'day' : first[0]} ${String(first[1]?.message)}.` : null;
};

function Over({
  title,
  onClose,
  children,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
}): ReactNode {
  return (
    <Veil isOpen isDismissable onOpenChange={(is) => !is && onClose()}>
      <Sheet>
        <Dialog aria-label={title}>
          <Heading slot="title">{title}</Heading>
          {children}
        </Dialog>
      </Sheet>
    </Veil>
  );
}

function End({ onClose, isPending }: { onClose: () => void; isPending: boolean }): ReactNode {
  return (
    <div className="end">
      <Button onPress={onClose}>Cancel</Button>
      <Primary type="submit" isDisabled={isPending}>
        Save
      </Primary>
    </div>
  );
}

function NameAndNote(of: { name: UseFormRegisterReturn; note: UseFormRegisterReturn }): ReactNode {
  return (
    <>
      <label>
        Name
        <input {...of.name} autoFocus />
      </label>
      <label>
        Note
        <textarea {...of.note} rows={3} />
      </label>
    </>
  );
}

const cardRules = yupResolver(changeCard.pick(['name', 'note', 'status', 'assignee', 'due']));

export function ShotForm({ shot, onClose }: { shot: ShotCard; onClose: () => void }): ReactNode {
  const change = useChangeCard();
  const { name, note, status, assignee, due } = shot;
  const { register, handleSubmit, formState } = useForm({
    resolver: cardRules,
    defaultValues: { name, note, status, assignee, due: due ?? '' },
  });
  const save = handleSubmit((values) =>
    change.mutate(
      { id: shot.id, ...values, status: values.status as ShotCard['status'], due: values.due || null },
      { onSuccess: onClose },
    ),
  );
  const fault = faultOf(formState.errors) ?? change.error?.message;
  return (
    <Over title={`Shot ${name}`} onClose={onClose}>
      <Form onSubmit={(e) => void save(e)} noValidate>
        <NameAndNote name={register('name', TRIMMED)} note={register('note', TRIMMED)} />
        <div className="beside">
          <label>
            Status
            <select {...register('status')}>
              {Object.entries(STATUS_WORDS).map(([key, words]) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          <label>
            Assigned to
            <input {...register('assignee', TRIMMED)} />
          </label>
          <label>
            Due
            <input type="date" {...register('due')} />
          </label>
        </div>
        <Quiet>Files that are written keep the name that the recipe had when they were made.</Quiet>
        {fault && <Trouble>{fault}</Trouble>}
        <End onClose={onClose} isPending={change.isPending} />
      </Form>
    </Over>
  );
}

const productionRules = yupResolver(changeProduction.pick(['name', 'note']));

export function ProductionForm({
  production,
  onClose,
}: {
  production: ProductionCard;
  onClose: () => void;
}): ReactNode {
  const change = useChangeProduction();
  const { id, name, note } = production;
  const { register, handleSubmit, formState } = useForm({
    resolver: productionRules,
    defaultValues: { name, note },
  });
  const save = handleSubmit((values) => change.mutate({ id, ...values }, { onSuccess: onClose }));
  const fault = faultOf(formState.errors) ?? change.error?.message;
  return (
    <Over title={`Production ${name}`} onClose={onClose}>
      <Form onSubmit={(e) => void save(e)} noValidate>
        <NameAndNote name={register('name', TRIMMED)} note={register('note', TRIMMED)} />
        {fault && <Trouble>{fault}</Trouble>}
        <End onClose={onClose} isPending={change.isPending} />
      </Form>
    </Over>
  );
}
