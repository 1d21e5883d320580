// What stands in a file that is brought in, whatever it is: those that need a decoder of pictures or movies
// are looked at here, all others where they are read.
import { importAsset, reportOf, type FileReport } from '../../assets/import-asset';
import { endingOf } from '../../assets/imported';
import { CoreError } from '../../base/error';
import { readCube } from '../../files/cube/cube';
import { readExrColours } from '../../files/exr/colours';
import { openSequence } from '../../files/sequence/sequence';
import { gapsOf, isTrackHead, readTrack } from '../../files/track/track';
import { MOVIE_ENDINGS, movieFrames, DECODED_ENDINGS, decodePicture, probeMovie } from './ffmpeg';
import { whole } from '../../files/ranges';
import { nodeZip, rangesOfFile } from './files';

/** @throws CoreError, FileError in words that name the place and the cure */
export async function checkFile(path: string, name: string): Promise<FileReport> {
  const ending = endingOf(name);
  if (MOVIE_ENDINGS.includes(ending)) return movieReport(path);
  const file = rangesOfFile(path);
  if (ending === 'zip') {
    const sequence = openSequence(file, nodeZip);
    if (sequence.ending === 'exr' || DECODED_ENDINGS.includes(sequence.ending))
      return picturesReport(sequence);
    return reportOf(await importAsset(name, file, nodeZip));
  }

  const bytes = whole(file);
  if (ending === 'cube') {
    const { kind, size } = readCube(bytes);
    return { kind: 'table', edges: kind, size, notes: [] };
  }

  if (ending === 'json' || (ending === 'csv' && isTrack(bytes))) return trackReport(bytes);
  if (DECODED_ENDINGS.includes(ending) && ending !== 'png') {
    const { width, height } = await decodePicture(bytes, ending);
    return { kind: 'picture', width, height, notes: [] };
  }

  return reportOf(await importAsset(name, bytes, nodeZip));
}

async function movieReport(path: string): Promise<FileReport> {
  const info = await probeMovie(path);
  const [first] = await movieFrames(path, info, 1, 1);
  if (!first) throw new CoreError('file', 'its first frame cannot be decoded');
  const { width, height, pixelAspect, rate, frames, hasAlpha, codec, encoding, notes } = info;
  return { kind: 'movie', width, height, pixelAspect, rate, frames, hasAlpha, codec, encoding, notes };
}

const isTrack = (bytes: Uint8Array): boolean => {
  const text = new TextDecoder().decode(bytes.subarray(0, 4096)).replace(/^\uFEFF/, '');
  const head = text.split(/\r\n|\r|\n/).find((line) => line.trim() !== '' && !line.startsWith('#')) ?? '';
  return isTrackHead(head.split(','));
};

function trackReport(bytes: Uint8Array): FileReport {
  const track = readTrack(bytes);
  const { rows, size } = track;
  const gaps = gapsOf(track);
  return {
    kind: 'track',
    of: rows[0].corners ? 'corners' : 'point',
    first: rows[0].frame,
    last: rows[rows.length - 1].frame,
    size,
    notes:
      gaps > 0
        ? [`${gaps} frames between its first and last are not tracked; they lie straight between`]
        : [],
  };
}

async function picturesReport(sequence: ReturnType<typeof openSequence>): Promise<FileReport> {
  const { numbers, ending } = sequence;
  const bytes = sequence.read(0);
  const { width, height } =
    ending === 'exr' ? await readExrColours(bytes, nodeZip) : await decodePicture(bytes, ending);
  const [first, last] = [numbers[0], numbers[numbers.length - 1]];
  const missing = last - first + 1 - numbers.length;
  const notes = missing > 0 ? [`${missing} frames between its first and last are missing`] : [];
  return { kind: 'pictures', width, height, first, last, frames: numbers.length, ending, notes };
}
