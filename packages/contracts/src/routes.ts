// Every address of the server, in one place.
export const routes = {
  productions: '/api/productions',
  production: (id: number | string) => `/api/productions/${id}`,
  /** In which order its shots stand on the board. */
  shotOrder: (productionId: number | string) => `/api/productions/${productionId}/order`,
  shots: '/api/shots',
  shot: (id: number | string) => `/api/shots/${id}`,
  /** Versions of a shot, and what is said of them. */
  review: (shotId: number | string) => `/api/shots/${shotId}/review`,
  reviewNote: (id: number | string) => `/api/review-notes/${id}`,
  /** How a shot stands on the board. */
  card: (shotId: number | string) => `/api/shots/${shotId}/card`,
  variants: (shotId: number | string) => `/api/shots/${shotId}/variants`,
  variant: (id: number | string) => `/api/variants/${id}`,
  bakes: (variantId: number | string) => `/api/variants/${variantId}/bakes`,
  sheets: (variantId: number | string) => `/api/variants/${variantId}/sheets`,
  sheetPicture: (id: number | string, cell: number | string, frame: number | string) =>
    `/api/sheets/${id}/cells/${cell}/frames/${frame}`,
  brick: (bakeId: number | string, frame: number | string) => `/api/bakes/${bakeId}/frames/${frame}/brick`,
  volume: (bakeId: number | string, frame: number | string) => `/api/bakes/${bakeId}/frames/${frame}/volume`,
  bake: (bakeId: number | string) => `/api/bakes/${bakeId}`,
  /** Readings and incidents of a bake's frames. */
  bakeFrames: (bakeId: number | string) => `/api/bakes/${bakeId}/frames`,
  tools: (bakeId: number | string) => `/api/bakes/${bakeId}/tools`,
  refines: (bakeId: number | string) => `/api/bakes/${bakeId}/refines`,
  particles: (bakeId: number | string) => `/api/bakes/${bakeId}/particles`,
  verify: (bakeId: number | string) => `/api/bakes/${bakeId}/verify`,
  /** One frame as a tool or the refine pass would make it. */
  tried: (bakeId: number | string) => `/api/bakes/${bakeId}/tried`,
  particlePackage: (id: number | string) => `/api/particles/${id}/package`,
  /** What can be handed over of a bake. */
  packing: (bakeId: number | string) => `/api/bakes/${bakeId}/packing`,
  packages: (bakeId: number | string) => `/api/bakes/${bakeId}/packages`,
  package: (id: number | string) => `/api/packages/${id}`,
  packageFolder: (id: number | string) => `/api/packages/${id}/folder`,
  contactSheet: (bakeId: number | string, of: string) =>
    `/api/bakes/${bakeId}/contact?of=${encodeURIComponent(of)}`,
  channelPresets: () => '/api/channel-presets',
  channelPreset: (id: number | string) => `/api/channel-presets/${id}`,
  bakeBundle: (variantId: number | string, voxelSizeM: number) =>
    `/api/variants/${variantId}/bundle?voxel=${voxelSizeM}`,
  renderBundle: (bakeId: number | string) => `/api/bakes/${bakeId}/bundle`,
  renders: (bakeId: number | string) => `/api/bakes/${bakeId}/renders`,
  renderPicture: (id: number | string, frame: number | string, kind: 'png' | 'exr') =>
    `/api/renders/${id}/frames/${frame}/${kind}`,
  renderDeep: (id: number | string, frame: number | string) => `/api/renders/${id}/frames/${frame}/deep`,
  combines: (shotId: number | string) => `/api/shots/${shotId}/combines`,
  /** Comps of a shot that were put aside. */
  comps: (shotId: number | string) => `/api/shots/${shotId}/comps`,
  comp: (id: number | string) => `/api/comps/${id}`,
  /** What a render gives to a comp. */
  renderFeed: (id: number | string) => `/api/renders/${id}/feed`,
  /** A frame of a file, decoded. */
  fileFrame: (sha256: string, frame: number | string) => `/api/files/${sha256}/frames/${frame}`,
  combinePicture: (id: number | string, frame: number | string, kind: 'png' | 'exr') =>
    `/api/combines/${id}/frames/${frame}/${kind}`,
  savings: (bakeId: number | string) => `/api/bakes/${bakeId}/savings`,
  savingsSheet: (id: number | string) => `/api/savings/${id}`,
  savingsPicture: (id: number | string, name: string) => `/api/savings/${id}/pictures/${name}`,
  renderCost: (bakeId: number | string) => `/api/bakes/${bakeId}/render-cost`,
  /** Movies of a render or of a combine. */
  movies: (of: 'renders' | 'combines', id: number | string) => `/api/${of}/${id}/movies`,
  movieFile: (id: number | string) => `/api/movies/${id}/file`,
  assets: (shotId: number | string) => `/api/shots/${shotId}/assets`,
  asset: (id: number | string) => `/api/assets/${id}/file`,
  /** Volumes from elsewhere become a cache of the shot: as a form with a file, or by a name in the folder. */
  bring: (shotId: number | string) => `/api/shots/${shotId}/volumes`,
  volumesFolder: '/api/volumes',
  files: '/api/files',
  fileData: (sha256: string) => `/api/files/${sha256}/data`,
  cost: '/api/cost',
  jobs: '/api/jobs',
  stopJob: (id: number | string) => `/api/jobs/${id}/stop`,
  pauseJob: (id: number | string) => `/api/jobs/${id}/pause`,
  /** A job that was paused, stopped or failed goes on. */
  moreSubstepsOfJob: (id: number | string) => `/api/jobs/${id}/more-substeps`,
  goOnJob: (id: number | string) => `/api/jobs/${id}/go-on`,
  /** A job that waits goes before the others. */
  firstJob: (id: number | string) => `/api/jobs/${id}/first`,
  jobLog: (id: number | string) => `/api/jobs/${id}/log`,
  /** The newest picture of what it makes. */
  jobPicture: (id: number | string) => `/api/jobs/${id}/picture`,
  /** One of the small pictures of a bake that are shown one after the other. */
  jobLoop: (id: number | string, frame: number | string) => `/api/jobs/${id}/loop/${frame}`,
  storage: '/api/storage',
  clear: (kind: string, id: number | string) => `/api/storage/${kind}/${id}/clear`,
  restore: (kind: string, id: number | string) => `/api/storage/${kind}/${id}/restore`,
  emptyBin: '/api/storage/empty',
  events: '/api/events',
  present: '/api/present',
  health: '/api/health',
} as const;
