import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { previewItem } from '#files/items/preview-item'
import { collectSources } from '#files/reading/collect-sources'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'

/** A process of its own that renders a draft of the material in a folder and tells its largest resident size in MB. */
const sources = await collectSources([process.argv[2]])
const { items } = await recognizeDelivery(sources.files)
await previewItem(items[0], HOUSE_RIGS['material-stage'], 'draft')
await sources.dispose()
process.send!(process.resourceUsage().maxRSS / 1024)
process.disconnect()
