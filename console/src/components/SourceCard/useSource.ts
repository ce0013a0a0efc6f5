// What can be done with one source: check it, scan it with progress, switch it.
import { onUnmounted, ref } from 'vue'
import { api, Problem } from '../../api/client'
import type { Check, Scan } from '../../api/types'
import { useDoing } from '../../shared/useDoing'

/** `settled`: whether the source, as it was listed, had been scanned or had failed to be. */
export function useSource(name: string, changed: () => void, settled: () => boolean) {
  const check = ref<Check | null>(null)
  const scan = ref<Scan | null>(null)
  const { busy, problem, doing } = useDoing()
  let timer = 0
  let looks = 0

  async function watch(): Promise<void> {
    window.clearTimeout(timer)
    try {
      const newest = (await api.scans(name))[0] ?? null
      const ended = scan.value?.state === 'running' && newest?.state !== 'running'
      scan.value = newest
      if (newest?.state === 'running') timer = window.setTimeout(watch, 300)
      else if (newest === null && ++looks < 10) timer = window.setTimeout(watch, 500)
      else if (ended || (newest && (looks || !settled()))) changed()
      if (newest) looks = 0
    } catch (error) {
      problem.value = error as Problem
    }
  }

  onUnmounted(() => window.clearTimeout(timer))
  void watch()

  return {
    check, scan, busy, problem,
    runCheck: () => doing('check', async () => void (check.value = await api.check(name))),
    startScan: () => doing('scan', async () => { await api.startScan(name); await watch() }),
    stopScan: () => doing('stop', async () => { if (scan.value) await api.stopScan(name, scan.value.id); await watch() }),
    change: (fields: Record<string, unknown>) => doing('change', async () => { await api.changeSource(name, fields); changed() }),
    remove: () => doing('remove', async () => { await api.removeSource(name); changed() }),
  }
}
