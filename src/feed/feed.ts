import { setPriority } from 'node:os'
import { join, resolve } from 'node:path'
import { createFeedApp } from './feed-app'
import { OFFERED } from './offer-items'

/** The simulated supplier as a process of its own. It knows nothing of Muscovite but how its feed is read. */
setPriority(15)
const port = Number(process.env.MUSCOVITE_FEED_PORT ?? 5171)
const { app } = createFeedApp(join(resolve(process.env.MUSCOVITE_DATA ?? './.data'), 'feed'), OFFERED)
const server = app.listen(port, '127.0.0.1')
server.on('listening', () => process.send?.('ready'))
server.on('error', () => process.exit(1))
const stop = () => process.exit(0)
process.on('SIGTERM', stop)
process.on('SIGINT', stop)
process.on('disconnect', stop)
