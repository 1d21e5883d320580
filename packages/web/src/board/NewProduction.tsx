// The form that makes a production; folded away until it is wanted.
import { Plus } from 'lucide-react';
import { useState, type FormEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import { useNewProduction } from '../data/queries/board';
import { Button, Primary, Quiet, roundFieldStyle, Trouble } from '../parts/ui';

const Line = styled.form`
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 36px;
  input {
    ${roundFieldStyle}
    width: 260px;
  }
`;

export function NewProduction({ isFirst }: { isFirst: boolean }): ReactNode {
  const create = useNewProduction();
  const [name, setName] = useState<string | null>(isFirst ? '' : null);
  const make = (e: FormEvent): void => {
    e.preventDefault();
    create.mutate(name!.trim(), { onSuccess: () => setName(null) });
  };

  if (name === null)
    return (
      <div style={{ marginTop: 36 }}>
        <Button onPress={() => setName('')}>
          <Plus size={14} /> New production
        </Button>
      </div>
    );
  return (
    <>
      {isFirst && <Quiet>No production yet. A production holds the shots of one job: name the first.</Quiet>}
      <Line onSubmit={make}>
        <input
          aria-label="Name of the new production"
          placeholder="Name of the new production"
          value={name}
          maxLength={120}
          autoFocus
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === 'Escape' && setName(null)}
        />
        <Primary type="submit" isDisabled={name.trim() === '' || create.isPending}>
          Make it
        </Primary>
      </Line>
      {create.error && <Trouble>{create.error.message}</Trouble>}
    </>
  );
}
