import { smallestOf } from '#shared/picture-widths'

/** The first pictures of what something holds, so that it is known by sight; empty mounts keep the columns. */
export const Covers = ({ urls, count = 4 }: { urls: readonly string[]; count?: number }) => (
  <span className="flex shrink-0 gap-1">
    {Array.from({ length: count }, (_, i) =>
      urls[i] ? (
        <img key={i} src={smallestOf(urls[i])} alt="" loading="lazy" className="aspect-[4/3] w-16 bg-mount object-cover" />
      ) : (
        <span key={i} className="aspect-[4/3] w-16 bg-line/30" />
      ),
    )}
  </span>
)
