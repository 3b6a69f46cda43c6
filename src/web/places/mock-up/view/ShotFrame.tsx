/** What of the window a shot frames: the rest is dimmed. */
export function ShotFrame({ aspect, window }: { aspect: number; window: number }) {
  const bar = 'pointer-events-none absolute bg-black/35'
  if (window > aspect * 1.002) {
    const width = `${50 * (1 - aspect / window)}%`
    return (
      <>
        <span aria-hidden className={`${bar} inset-y-0 left-0`} style={{ width }} />
        <span aria-hidden className={`${bar} inset-y-0 right-0`} style={{ width }} />
      </>
    )
  }
  const height = `${50 * (1 - window / aspect)}%`
  return (
    <>
      <span aria-hidden className={`${bar} inset-x-0 top-0`} style={{ height }} />
      <span aria-hidden className={`${bar} inset-x-0 bottom-0`} style={{ height }} />
    </>
  )
}
