import { type QueryClient } from '@tanstack/react-query'
import { below } from '../api/below'

// Windows of one browser tell each other that something was changed; each then asks anew for what it shows.
const windows = new BroadcastChannel('mantilla' + below)

/** Tells the other windows that something was changed here. */
export function tellWindows() {
  windows.postMessage('changed')
}

/** Has this window follow what is changed in others. */
export function followWindows(queries: QueryClient) {
  windows.onmessage = () => void queries.invalidateQueries()
}
