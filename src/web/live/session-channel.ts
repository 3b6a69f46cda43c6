const CHANNEL = 'muscovite session'

/** Tells the other pages of this browser that somebody signed in or out. */
export function tellSessionChanged(): void {
  const channel = new BroadcastChannel(CHANNEL)
  channel.postMessage(null)
  channel.close()
}

/** Calls back when somebody signs in or out in another page; returns how to stop. */
export function hearSessionChanges(onChange: () => void): () => void {
  const channel = new BroadcastChannel(CHANNEL)
  channel.onmessage = onChange
  return () => channel.close()
}
