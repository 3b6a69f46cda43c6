/** Widths besides its own at which a rendered picture is kept, so that each place takes what it shows, on screens of one and two pixels a point. */
export const REDUCED_WIDTHS = [192, 384] as const

const FINAL_WIDTH = 768

const hasWidths = (url: string): boolean => url.startsWith('/api/previews/')

/** The widths of a rendered picture's address, as an image's `srcset`; undefined for pictures that have one width only. */
export const widthsOf = (url: string): string | undefined =>
  hasWidths(url) ? [...REDUCED_WIDTHS.map(w => `${url}?w=${w} ${w}w`), `${url} ${FINAL_WIDTH}w`].join(', ') : undefined

/** The address of a picture at its smallest. */
export const smallestOf = (url: string): string => (hasWidths(url) ? `${url}?w=${REDUCED_WIDTHS[0]}` : url)

/** Longer sides in pixels of what pages show in place of a version's maps, surroundings and models' pictures. */
export const SCREEN_COPY_SIDES = [512, 1024, 2048] as const
export type ScreenCopySide = (typeof SCREEN_COPY_SIDES)[number]

/** At these pages open them before any other, so that they are made before somebody waits for them. */
export const OPENED_SIDES = { map: [1024], environment: [2048, 1024], model: [1024] } as const satisfies Record<
  string,
  readonly ScreenCopySide[]
>

/**
 * The address of a map or a surrounding no larger than that, in a form that browsers read; of a model with such pictures. What is of no
 * version, as the model that a mock-up stands in, is there in one form only.
 */
export const screenCopyOf = (fileUrl: string, longerPx: ScreenCopySide): string =>
  fileUrl.startsWith('/api/versions/') ? `${fileUrl}/screen?px=${longerPx}` : fileUrl
