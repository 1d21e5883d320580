// Files that the comp is made with: plates, tracks and tables of colours.
import { FileUp, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { FileTrigger } from 'react-aria-components';
import type { FileInfo } from '@bramblemist/contracts/payloads/storage';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { partOf } from '@bramblemist/core/recipe/settings';
import { change } from '../../data/bench';
import { Ingredient } from '../../parts/Ingredient';
import { Bar, Button, bytes, Heading, Mark, Plain, Quiet, Section, Trouble } from '../../parts/ui';
import { Actions } from '../page-parts';
import { changeComp } from './change-comp';
import type { Targets } from './targets';

/** What a file holds, in a line. */
function toldOf({ report, bytes: size }: FileInfo): string {
  switch (report.kind) {
    case 'movie':
      return (
        `${report.width} × ${report.height}, ${report.frames} frames at ` +
        `${Number(report.rate.toFixed(3))} fps, ` +
        `${report.codec}${report.hasAlpha ? ' with alpha' : ''}, ${bytes(size)}`
      );
    case 'pictures':
      return (
        `${report.width} × ${report.height}, frames ${report.first}–${report.last}, ` +
        `${report.ending.toUpperCase()}`
      );
    case 'picture':
      return `${report.width} × ${report.height}, ${bytes(size)}`;
    case 'track':
      return `${report.of === 'corners' ? 'four corners' : 'a point'}, frames ${report.first}–${report.last}`;
    case 'table':
      return report.edges === 'cube' ? `a cube of ${report.size}³ colours` : `a line of ${report.size} steps`;
    default:
      return '';
  }
}

export function CompFiles({ comp, targets }: { comp: Combine; targets: Targets }): ReactNode {
  return (
    <Section>
      <Heading>
        Files
        <FileTrigger
          allowsMultiple
          onSelect={(files) => files && void targets.bring([...files], () => undefined)}
        >
          <Button isDisabled={targets.coming !== null}>
            <FileUp size={13} /> Bring files
          </Button>
        </FileTrigger>
      </Heading>
      {comp.files.length === 0 && (
        <Quiet>
          Plates as pictures, numbered pictures or movies; tracks as CSV or JSON; tables of colours as .cube.
        </Quiet>
      )}
      {targets.coming && <Bar $part={targets.coming.part} />}
      {targets.wrong.map((text) => (
        <Trouble key={text}>{text}</Trouble>
      ))}
      {comp.files.map((file, n) => {
        const info = targets.infoOf(file);
        return (
          <Ingredient
            key={file.id}
            part={partOf(COMBINE.parts, 'files')}
            values={file}
            frameRate={comp.frame.rate}
            targets={targets.of}
            onChange={(path, label, value) => {
              if (!targets.takes(`files.${n}.${path}`, value))
                change(label, 'combine', `files.${n}.${path}`, value);
            }}
            under={
              <>
                {info ? (
                  <Quiet>{toldOf(info)}</Quiet>
                ) : (
                  <Mark state="trouble">not on the shelf any more</Mark>
                )}
                {(info?.report.notes ?? []).map((note) => (
                  <Mark key={note} state="stale">
                    {note}
                  </Mark>
                ))}
              </>
            }
            actions={
              <Actions>
                <Plain
                  onPress={() =>
                    changeComp(`remove ${file.name}`, (c) => ({
                      ...c,
                      files: c.files.filter(({ id }) => id !== file.id),
                    }))
                  }
                >
                  <Trash2 size={13} /> Remove
                </Plain>
              </Actions>
            }
          />
        );
      })}
    </Section>
  );
}
