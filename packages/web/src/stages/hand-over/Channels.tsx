// What the volumes’ grids are called by whoever gets them: a table, and tables that are kept by a name.
import { Save, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import { nameIn, type ChannelNames } from '@bramblemist/core/cache/channel-names';
import { useChannelPresets } from '../../data/queries/packages';
import { fieldStyle, Plain, Trouble } from '../../parts/ui';

const Table = styled.details`
  summary {
    cursor: pointer;
    color: ${({ theme }) => theme.quiet};
  }
  summary b {
    font-weight: 400;
    color: ${({ theme }) => theme.text};
  }
  table {
    width: 100%;
    margin: 6px 0;
    border-collapse: collapse;
  }
  td {
    padding: 2px 6px 2px 0;
  }
  td:last-child {
    width: 60%;
    padding-right: 0;
  }
  td label {
    display: flex;
    align-items: center;
    gap: 8px;
    color: ${({ theme }) => theme.text};
  }
  input[type='checkbox'] {
    width: auto;
    min-height: 0;
    accent-color: ${({ theme }) => theme.thorn};
  }
`;
const Presets = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  input {
    ${fieldStyle}
    flex: 1;
    min-width: 90px;
    width: auto;
  }
  select {
    ${fieldStyle}
  }
`;

/** Names in a line: density as smoke, age left out. */
function told(names: ChannelNames, channels: readonly string[]): string {
  const changed = channels.flatMap((channel) => {
    const name = nameIn(names, channel);
    if (name === null) return [`${channel} left out`];
    return name === channel ? [] : [`${channel} as ${name}`];
  });
  return changed.length > 0 ? changed.join(', ') : 'as they are here';
}

export function Channels({
  packing,
  bakeId,
  names,
  onChange,
  fault,
}: {
  packing: PackingInfo;
  bakeId: number;
  names: ChannelNames;
  onChange: (names: ChannelNames) => void;
  /** What is wrong with them; null where nothing is. */
  fault: string | null;
}): ReactNode {
  const { channels, presets } = packing;
  const { save, remove } = useChannelPresets(bakeId);
  const [name, setName] = useState('');
  const known = presets.find((p) => JSON.stringify(p.channels) === JSON.stringify(names)) ?? null;
  const put = (channel: string, to: string | undefined): void => {
    const others = Object.fromEntries(Object.entries(names).filter(([own]) => own !== channel));
    onChange(to === undefined ? others : { ...others, [channel]: to });
  };

  return (
    <Table>
      <summary>
        Names of channels: <b>{told(names, channels)}</b>
      </summary>
      <table aria-label="Names of channels">
        <tbody>
          {channels.map((channel) => {
            const to = nameIn(names, channel);
            return (
              <tr key={channel}>
                <td>
                  <label>
                    <input
                      type="checkbox"
                      checked={to !== null}
                      onChange={(e) => put(channel, e.target.checked ? undefined : '')}
                    />
                    {channel}
                  </label>
                </td>
                <td>
                  <input
                    aria-label={`Name of ${channel}`}
                    value={to ?? ''}
                    placeholder={to === null ? 'left out' : channel}
                    disabled={to === null}
                    spellCheck={false}
                    maxLength={63}
                    onChange={(e) => put(channel, e.target.value === channel ? undefined : e.target.value)}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {fault && <Trouble>{fault}</Trouble>}
      <Presets>
        {presets.length > 0 && (
          <select
            aria-label="Kept names"
            value={known?.id ?? ''}
            onChange={(e) => onChange(presets.find((p) => p.id === Number(e.target.value))?.channels ?? {})}
          >
            <option value="">as they are here</option>
            {presets.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </select>
        )}
        {known && (
          <Plain aria-label={`Remove the names of ${known.name}`} onPress={() => remove.mutate(known.id)}>
            <Trash2 size={13} />
          </Plain>
        )}
        <input
          aria-label="Keep these names as"
          placeholder="keep these as …"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
        />
        <Plain
          isDisabled={name.trim() === '' || fault !== null || Object.keys(names).length === 0}
          onPress={() => save.mutate({ name, channels: names }, { onSuccess: () => setName('') })}
        >
          <Save size={13} /> Keep
        </Plain>
      </Presets>
      {save.error && <Trouble>{save.error.message}</Trouble>}
    </Table>
  );
}
