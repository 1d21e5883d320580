// Frames of a bake are packed and written by a thread of their own while the next ones are simulated. The
// bake itself never waits for its event loop: it sleeps on a counter until an answer is there.
import { MessageChannel, receiveMessageOnPort, Worker, type MessagePort } from 'node:worker_threads';
import { CoreError } from '../../base/error';
import { arraysOf, type CheckpointHead } from '../../cache/checkpoint';
import type { Preview } from '../../cache/preview';
import type { PackedGrid } from '../../files/vdb/format';
import type { WriteOptions } from '../../files/vdb/writer';
import type { FieldSnapshot } from '../../step/snapshot';
import { DiskFullError } from './files';
import type { Pictured } from './newest';
import { workspaceFile } from './workspace';

/** Frames that may wait to be written: each takes memory. */
const MOST_WAITING = 2;
/** A thread that says nothing for so long has died. */
const PATIENCE_MS = 600_000;

export interface FrameWriterSetup extends Pictured {
  /** How many orders were answered. */
  readonly answers: Int32Array;
}

export interface FrameOrder {
  readonly kind: 'frame';
  readonly path: string;
  readonly grids: readonly PackedGrid[];
  readonly options: Omit<WriteOptions, 'zip'>;
  readonly preview: { readonly path: string; readonly shown: Preview } | null;
  readonly frame: number;
}
export type WriteOrder =
  | FrameOrder
  | { readonly kind: 'checkpoint'; readonly head: CheckpointHead; readonly snapshot: FieldSnapshot };

interface Written {
  readonly bytes: number;
  readonly sha256: string;
}
export type FrameWritten =
  | ({ readonly kind: 'frame' } & Written)
  | { readonly kind: 'checkpoint' }
  | { readonly kind: 'trouble'; readonly message: string; readonly diskIsFull: boolean };

export class FrameWriter {
  private readonly port: MessagePort;
  private readonly worker: Worker;
  private readonly answers = new Int32Array(new SharedArrayBuffer(4));
  /** What is to be done with the answers that are still due, oldest first. */
  private readonly due: ((written: Written | null) => void)[] = [];
  private taken = 0;
  /** Milliseconds in which a bake has waited for this. */
  waitedMs = 0;

  constructor(setup: Omit<FrameWriterSetup, 'answers'>) {
    const { port1, port2 } = new MessageChannel();
    this.port = port1;
    this.worker = new Worker(workspaceFile('packages/core/build/frame-writer-worker.cjs'), {
      workerData: { ...setup, answers: this.answers, port: port2 },
      transferList: [port2],
    });
    this.worker.unref();
    this.port.unref();
  }

  /** @param written is told of the file once it is on disk, in a later call of this writer */
  frame(order: FrameOrder, written: (file: Written) => void): void {
    const arrays = order.grids.flatMap((g) => [g.origins, g.masks, g.starts, g.values]);
    this.send(order, arrays, (file) => written(file!));
  }

  /** @param snapshot is handed over: nothing is left of it here */
  checkpoint(head: CheckpointHead, snapshot: FieldSnapshot): void {
    this.send({ kind: 'checkpoint', head, snapshot }, arraysOf(snapshot), () => undefined);
  }

  private send(
    order: WriteOrder,
    handedOver: readonly ArrayBufferView[],
    then: (written: Written | null) => void,
  ): void {
    this.settle(MOST_WAITING - 1);
    this.due.push(then);
    this.port.postMessage(order, [...new Set(handedOver.map((a) => a.buffer as ArrayBuffer))]);
  }

  /**
   * Takes the answers that are there, and waits until no more than so many are due.
   * @throws CoreError, DiskFullError what went wrong with one of them
   */
  settle(most = 0): void {
    for (;;) {
      const before = Atomics.load(this.answers, 0);
      this.take();
      if (this.due.length <= most) return;
      const began = performance.now();
      if (before === this.taken && Atomics.wait(this.answers, 0, before, PATIENCE_MS) === 'timed-out')
        throw new CoreError('cache', 'The thread that writes the frames no longer answers.');
      this.waitedMs += performance.now() - began;
    }
  }

  private take(): void {
    for (let got = receiveMessageOnPort(this.port); got; got = receiveMessageOnPort(this.port)) {
      const answer = got.message as FrameWritten;
      this.taken++;
      const then = this.due.shift()!;
      if (answer.kind === 'trouble') {
        // nothing behind it is waited for
        this.due.length = 0;
        throw answer.diskIsFull ? new DiskFullError(answer.message) : new CoreError('cache', answer.message);
      }

      then(answer.kind === 'frame' ? answer : null);
    }
  }

  close(): void {
    this.port.close();
    void this.worker.terminate();
  }
}
