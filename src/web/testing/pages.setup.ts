import { configure } from '@testing-library/react'

// A wait ends when its condition holds; how long a busy machine takes to it is no fault of the page.
configure({ asyncUtilTimeout: 60_000 })
