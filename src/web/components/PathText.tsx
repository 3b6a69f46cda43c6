/** A path on one line: where it is too long, its folders give way and the file's own name stays. */
export function PathText({ path, title = path, className = '' }: { path: string; title?: string; className?: string }) {
  const at = path.lastIndexOf('/') + 1
  return (
    <span className={`figures flex min-w-0 ${className}`} title={title}>
      {at > 0 && <span className="truncate text-quiet">{path.slice(0, at)}</span>}
      <span className="max-w-full shrink-0 truncate">{path.slice(at)}</span>
    </span>
  )
}
