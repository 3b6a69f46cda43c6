/** How a map's values are spread, from black at the left to white at the right. */
export function Histogram({ text }: { text: string }) {
  const shares = text.split(' ').map(Number)
  const most = Math.max(...shares, 1)
  return (
    <span className="flex h-8 w-full items-end gap-px" role="img" aria-label={sayShares(shares)} title={sayShares(shares)}>
      {shares.map((share, k) => (
        <span
          key={k}
          className="flex-1 bg-quiet"
          style={{ height: share > 0 ? `max(1px, ${100 * Math.sqrt(share / most)}%)` : 0 }}
        />
      ))}
    </span>
  )
}

/** In three parts, as people say it. */
function sayShares(shares: readonly number[]): string {
  const all = shares.reduce((sum, s) => sum + s, 0) || 1
  const part = (from: number, to: number) => {
    const sum = shares.slice(Math.round(from * shares.length), Math.round(to * shares.length)).reduce((a, b) => a + b, 0)
    return Math.round((100 * sum) / all)
  }
  return `${part(0, 1 / 3)} % dark, ${part(1 / 3, 2 / 3)} % middle, ${part(2 / 3, 1)} % light`
}
