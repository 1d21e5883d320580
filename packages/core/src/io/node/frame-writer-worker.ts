// A thread that packs and writes what a bake hands it, in the order in which it comes.
import { workerData, type MessagePort } from 'node:worker_threads';
import { joinCheckpoint } from '../../cache/checkpoint';
import { encodePreview } from '../../cache/preview';
import { writePacked } from '../../files/vdb/writer';
import { keepCheckpoint } from './checkpoints';
import { DiskFullError, nodeZip, sha256, writeWhole } from './files';
import type { FrameWriterSetup, FrameWritten, WriteOrder } from './frame-writer';
import { smallPictures } from './newest';

const { port, answers, folder, look, frames } = workerData as FrameWriterSetup & { port: MessagePort };
const picture = smallPictures({ folder, look, frames });

function carryOut(order: WriteOrder): FrameWritten {
  if (order.kind === 'checkpoint') {
    keepCheckpoint(folder, order.head.frame, joinCheckpoint(order.head, order.snapshot));
    return { kind: 'checkpoint' };
  }

  const data = writePacked(order.grids, { zip: nodeZip, ...order.options });
  writeWhole(order.path, data);
  const { preview } = order;
  if (preview) {
    writeWhole(preview.path, encodePreview(preview.shown, nodeZip));
    picture(() => preview.shown.brick, order.frame);
  }

  return { kind: 'frame', bytes: data.length, sha256: sha256(data) };
}

port.on('message', (order: WriteOrder) => {
  let answer: FrameWritten;
  try {
    answer = carryOut(order);
  } catch (error) {
    answer = {
      kind: 'trouble',
      message: (error as Error).message,
      diskIsFull: error instanceof DiskFullError,
    };
  }

  port.postMessage(answer);
  Atomics.add(answers, 0, 1);
  Atomics.notify(answers, 0);
});
