import type { QueryClient } from '@tanstack/vue-query'

import { client } from './api/client'

/** On a phone that was let in: keep the program and what it shows there, for when the laptop sleeps. */
export async function keepForOffline(queries: QueryClient): Promise<void> {
  if (location.protocol !== 'https:' || !('serviceWorker' in navigator)) return
  try {
    const { data } = await client.GET('/api/phone')
    if (!data?.through) return
    // what was fetched before it took over is fetched again, so that it is kept
    navigator.serviceWorker.addEventListener('controllerchange', () => void queries.invalidateQueries())
    await navigator.serviceWorker.register('/sw.js')
  } catch {
    // a browser that does not trust the certificate keeps nothing: the open page works all the same
  }
}
