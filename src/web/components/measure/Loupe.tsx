import type { Place } from '#core/map/measured-line'

const SIDE_PX = 120
const TIMES = 6

/** What is about a place, each pixel of the picture as six, in the corner that is farther from it. */
export function Loupe({ url, size, place }: { url: string; size: { width: number; height: number }; place: Place }) {
  return (
    <span
      aria-hidden
      className={`pointer-events-none absolute top-2 border border-white ${place.u < 0.5 ? 'right-2' : 'left-2'}`}
      style={{
        width: SIDE_PX,
        height: SIDE_PX,
        backgroundImage: `url("${url}")`,
        backgroundRepeat: 'no-repeat',
        backgroundColor: '#888',
        backgroundSize: `${size.width * TIMES}px ${size.height * TIMES}px`,
        backgroundPosition: `${SIDE_PX / 2 - place.u * size.width * TIMES}px ${SIDE_PX / 2 - place.v * size.height * TIMES}px`,
        imageRendering: 'pixelated',
      }}
    >
      <span className="absolute top-1/2 left-0 h-px w-full bg-white mix-blend-difference" />
      <span className="absolute top-0 left-1/2 h-full w-px bg-white mix-blend-difference" />
    </span>
  )
}
