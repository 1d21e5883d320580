// Looks a glTF's JSON over before the library reads it: nothing that it says of counts, places and depths is
// believed, since a typed array behind the end of its buffer holds whatever is there.
import { FileError } from '../bytes';

interface Accessor {
  bufferView?: number;
  byteOffset?: number;
  componentType: number;
  count: number;
  type: string;
  sparse?: {
    count: number;
    indices: { bufferView: number; byteOffset?: number; componentType: number };
    values: { bufferView: number; byteOffset?: number };
  };
}

interface Primitive {
  indices?: number;
  attributes?: Record<string, number>;
  targets?: Record<string, number>[];
  material?: number;
  extensions?: Record<string, unknown>;
}

export interface GltfJson {
  buffers?: { uri?: string; byteLength: number }[];
  bufferViews?: { buffer: number; byteOffset?: number; byteLength: number; byteStride?: number }[];
  accessors?: Accessor[];
  meshes?: { primitives?: Primitive[] }[];
  nodes?: { children?: number[]; mesh?: number; skin?: number }[];
  images?: unknown[];
  textures?: unknown[];
  samplers?: unknown[];
  materials?: unknown[];
  extensionsRequired?: string[];
  extensionsUsed?: string[];
}

const WIDTHS: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const PARTS: Readonly<Record<string, number>> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
};
const MOST_COUNT = 100_000_000;
const MOST_DEPTH = 500;

/** @throws FileError naming the place */
export function mustBeSound(json: GltfJson, lengths: readonly number[]): void {
  const fail = (what: string): never => {
    throw new FileError(`It is no glTF file that can be read: ${what}.`);
  };

  const isCount = (n: unknown): n is number => Number.isInteger(n) && (n as number) >= 0;
  const views = json.bufferViews ?? [];
  views.forEach(({ buffer, byteOffset = 0, byteLength }, n) => {
    if (!isCount(byteOffset) || !isCount(byteLength) || byteOffset + byteLength > (lengths[buffer] ?? -1))
      fail(`its view ${n} lies outside of its buffer`);
  });
  const holds = (view: number | undefined, offset: number, stride: number, count: number, last: number) => {
    const found = views[view ?? -1];
    return (
      found !== undefined &&
      isCount(offset) &&
      (count === 0 || offset + (found.byteStride ?? stride) * (count - 1) + last <= found.byteLength)
    );
  };

  (json.accessors ?? []).forEach((a, n) => {
    const width = WIDTHS[a.componentType];
    const parts = PARTS[a.type];
    if (!width || !parts || !isCount(a.count) || a.count > MOST_COUNT)
      return fail(`its accessor ${n} is of no kind or count that there is`);
    const bytes = width * parts;
    if (a.bufferView !== undefined && !holds(a.bufferView, a.byteOffset ?? 0, bytes, a.count, bytes))
      return fail(`its accessor ${n} reads behind the end of its view`);
    // without a view all are 0: only as many as the file could have filled
    if (a.bufferView === undefined && a.count * bytes > 64 * Math.max(65_536, ...lengths))
      return fail(`its accessor ${n} has ${a.count} places and nothing in them`);
    const { sparse } = a;
    if (!sparse) return undefined;
    const own = WIDTHS[sparse.indices?.componentType];
    if (
      !isCount(sparse.count) ||
      sparse.count > a.count ||
      !own ||
      !holds(sparse.indices.bufferView, sparse.indices.byteOffset ?? 0, own, sparse.count, own) ||
      !holds(sparse.values?.bufferView, sparse.values?.byteOffset ?? 0, bytes, sparse.count, bytes)
    )
      return fail(`the changes of its accessor ${n} lie outside of their views`);
    return undefined;
  });
  // what is not there counts as left out in the library
  const named = (json.meshes ?? [])
    .flatMap(({ primitives = [] }) => primitives)
    .flatMap(({ indices, attributes = {}, targets = [] }) => [
      ...(indices === undefined ? [] : [indices]),
      ...[attributes, ...targets].flatMap((list) => Object.values(list)),
    ]);
  const missing = named.find((n) => !isCount(n) || n >= (json.accessors?.length ?? 0));
  if (missing !== undefined) fail(`it names an accessor ${missing} that is not there`);
  nodesAreTree(json.nodes ?? [], fail);
}

/** No node stands below itself, none has two parents, and none lies so deep that a walk would not end. */
function nodesAreTree(nodes: NonNullable<GltfJson['nodes']>, fail: (what: string) => never): void {
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach(({ children = [] }, n) => {
    for (const c of children) {
      if (!Number.isInteger(c) || c < 0 || c >= nodes.length)
        fail(`its node ${n} has a child ${c} that is not there`);
      if (parent[c] >= 0 || c === n) fail(`its node ${c} stands in two places`);
      parent[c] = n;
    }
  });
  for (let n = 0; n < nodes.length; n++) {
    let depth = 0;
    for (let at = parent[n]; at >= 0; at = parent[at])
      if (++depth > MOST_DEPTH) fail(`its nodes lie more than ${MOST_DEPTH} deep`);
  }
}

/** Takes what only colours need: pictures in other files do not hinder its shape. */
export function withoutTextures(json: GltfJson): GltfJson {
  const meshes = json.meshes?.map((m) => ({
    ...m,
    primitives: m.primitives?.map((p) => ({
      ...p,
      material: undefined,
      extensions: { ...p.extensions, KHR_materials_variants: undefined },
    })),
  }));
  const needless = /^(KHR_materials_|KHR_texture_|EXT_texture_)/;
  return {
    ...json,
    meshes,
    images: undefined,
    textures: undefined,
    samplers: undefined,
    materials: undefined,
    extensionsRequired: json.extensionsRequired?.filter((e) => !needless.test(e)),
    extensionsUsed: json.extensionsUsed?.filter((e) => !needless.test(e)),
  };
}
