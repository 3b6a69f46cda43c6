/**
 * Who may import whom. Each list names the folders of one place from the bottom up: a folder may import what stands before it in its
 * list, never what stands behind. So no circle between folders can come about, and none between files is let through either.
 */
const FLOORS = {
  src: ['core', 'shared', 'files', 'demo', 'feed', 'server', 'seed', 'cli', 'bench', 'web'],
  'src/core': [
    'math',
    'findings',
    'color',
    'image',
    'codecs',
    'standard',
    'fixes',
    'material',
    'map',
    'geometry',
    'environment',
    'photometry',
    'hand-over',
    'targets',
    'render',
    'evidence',
    'compare',
    'find',
    'mock-up',
    'takeoff',
    'revision',
    'audit',
  ],
  'src/core/find': ['words', 'looks', 'query', 'columns', 'views', 'tags'],
  'src/core/mock-up': ['scene', 'placing', 'things', 'materials', 'texture', 'stage-model', 'planting', 'light', 'composing'],
  'src/core/render': ['rigs', 'kernel', 'film', 'surface', 'lights', 'scene', 'guide', 'integrator', 'stages', 'pictures'],
  'src/files': [
    'reading',
    'writing',
    'documents',
    'models',
    'items',
    'mock-ups',
    'exports',
    'audits',
    'stage-models',
    'fixes',
    'recognition',
  ],
  'src/server': [
    'tables',
    'platform',
    'http',
    'people',
    'house',
    'find',
    'items',
    'previews',
    'library',
    'personal',
    'standard',
    'intake',
    'projects',
    'stage-models',
    'mock-ups',
    'decisions',
    'audits',
    'schedules',
    'bulk',
    'feeds',
    'upkeep',
  ],
  'src/web': ['words', 'live', 'state', 'testing', 'workers', 'viewer', 'components', 'places', 'app'],
  'src/web/components': ['controls', 'dialogs', 'measure', 'tracing', 'hand-over'],
  'src/web/places/wall': ['narrow', 'table', 'tree', 'colors'],
  'src/web/places/mock-up': ['schedule', 'state', 'view', 'light', 'shots', 'stage', 'cards'],
  'src/web/places/projects': ['decisions', 'audits', 'check', 'schedule'],
  'src/web/places/intake': ['upload', 'feeds', 'worklist'],
  'src/web/places/intake/worklist': ['state', 'row', 'tools'],
  'src/web/places': [
    'sign-in',
    'people',
    'compare',
    'family',
    'sheet',
    'wall',
    'intake',
    'mock-up',
    'standard',
    'projects',
    'upkeep',
  ],
}

/** What other subjects of the server may use of one; the rest is its own business. What lies below them is open to all. */
const DOORS = {
  previews: ['previews', 'rerenders', 'fidelity/fidelity', 'turntable/turntables'],
  library: [
    'chips',
    'pictures/own-pictures',
    'request-checks',
    'edit-items',
    'item-facts',
    'rename-items',
    'carry-items',
    'wall',
  ],
  personal: ['dots'],
  standard: [],
  intake: ['batches', 'claim-files', 'scene-files'],
  projects: ['projects', 'awaiting', 'deciders'],
  decisions: ['decide'],
  'stage-models': ['stage-models', 'propose-materials'],
  'mock-ups': ['mock-ups', 'order-pictures', 'schedule', 'write-documents'],
  bulk: ['run-bulk.job'],
  feeds: [],
  people: ['libraries', 'people', 'access-links', 'session-view'],
}

/** Packages that only one part of the program may know. */
const KEPT_APART = [
  {
    name: 'core-is-pure',
    from: '^src/core/',
    to: '^(node:|react|three$|three/|sharp|express|pg$|drizzle-orm)|^src/(?!core/|kernel/)|^(fs|path|os|crypto|stream|util|zlib|worker_threads|child_process)(/|$)',
  },
  { name: 'shared-is-for-both-sides', from: '^src/shared/', to: '^(node:|react|three$|sharp)|^src/(?!core/|shared/)' },
  { name: 'pages-know-core-and-shared', from: '^src/web/', to: '^(node:|sharp)|^src/(?!core/|shared/|web/|kernel/)' },
  { name: 'only-the-viewer-knows-three', from: '^src/web/(?!viewer/)', to: 'node_modules/(three|@react-three)/' },
]

const floorRules = Object.entries(FLOORS).flatMap(([parent, folders]) =>
  folders.slice(0, -1).map((folder, at) => ({
    name: `${parent}/${folder}-is-below`,
    comment: `In ${parent}, ${folder} stands below ${folders.slice(at + 1).join(', ')}; .dependency-cruiser.mjs has the order.`,
    severity: 'error',
    from: { path: `^${parent}/${folder}/` },
    to: { path: `^${parent}/(${folders.slice(at + 1).join('|')})/` },
  })),
)

const unlisted = Object.entries(FLOORS).map(([parent, folders]) => ({
  name: `${parent}-has-a-floor-for-each`,
  comment: `A new folder in ${parent} needs its place in the order in .dependency-cruiser.mjs.`,
  severity: 'error',
  from: {},
  to: { path: `^${parent}/(?!(${folders.join('|')}${parent === 'src' ? '|kernel' : ''})/)[^/]+/` },
}))

const doorRules = Object.entries(DOORS).map(([subject, doors]) => ({
  name: `door-of-${subject}`,
  comment: `Other subjects use of ${subject} only ${doors.join(', ') || 'nothing'}.`,
  severity: 'error',
  from: { path: '^src/server/[^/]+/', pathNot: `^src/server/${subject}/` },
  to: {
    path: `^src/server/${subject}/`,
    ...(doors.length > 0 ? { pathNot: `^src/server/${subject}/(${doors.join('|')})\\.ts$` } : {}),
  },
}))

export default {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    ...KEPT_APART.map(({ name, from, to }) => ({ name, severity: 'error', from: { path: from }, to: { path: to } })),
    ...floorRules,
    ...unlisted,
    ...doorRules,
  ],
  options: {
    tsPreCompilationDeps: true,
    parser: 'tsc',
    tsConfig: { fileName: 'tsconfig.base.json' },
    doNotFollow: { path: 'node_modules' },
    // A test may look at anything.
    exclude: { path: '\\.test\\.tsx?$' },
  },
}
