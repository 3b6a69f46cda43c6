import type { Role, Session } from '#shared/contracts/session.contract'

export interface DemoPerson {
  name: string
  email: string
  password: string
  role: Role
  /** Keys of the client libraries whose team they are on. */
  clients: string[]
  describes: string
}

/** The people of the made-up studio Pale Harbour. Their passwords are shown on the sign-in page: nothing here is secret. */
export const DEMO_PEOPLE: readonly DemoPerson[] = [
  {
    name: 'Ines Quist',
    email: 'ines@paleharbour.example',
    password: 'mica-and-quartz',
    role: 'lead',
    clients: ['kettles'],
    describes: 'Library lead: takes in, decides, approves',
  },
  {
    name: 'Tomas Brandl',
    email: 'tomas@paleharbour.example',
    password: 'oak-and-ash',
    role: 'artist',
    clients: [],
    describes: 'Artist on the ferry hall and the reading room',
  },
  {
    name: 'Noor Vestergaard',
    email: 'noor@paleharbour.example',
    password: 'enamel-and-steel',
    role: 'artist',
    clients: ['kettles'],
    describes: "Artist on the confidential client's team",
  },
  {
    name: 'Wren Abara',
    email: 'wren@harbour-trust.example',
    password: 'ferry-and-quay',
    role: 'guest',
    clients: [],
    describes: 'Guest: looks at the ferry hall',
  },
]

export const listDemoPeople = (): Session['demoPeople'] =>
  DEMO_PEOPLE.map(({ name, email, password, describes }) => ({ name, email, password, describes }))
