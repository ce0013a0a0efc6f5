// One inquiry with its events, live while it is under way, replayed when it has ended.
import { onScopeDispose, ref } from 'vue'
import { api } from '../api/client'
import type { Inquiry, TrailEvent } from '../api/types'
import { STATION_OF } from './events'
import { visibly } from './visible'
import { useDoing } from './useDoing'

export function useInquiry(id: string) {
  const inquiry = ref<Inquiry | null>(null)
  const events = ref<TrailEvent[]>([])
  const writing = ref('')
  const { problem, doing } = useDoing()
  const reconnecting = ref(false)
  let stream: EventSource | null = null

  async function load(): Promise<void> {
    const loaded = await doing('load', async () => (inquiry.value = await api.inquiry(id)))
    if (loaded && !stream) listen()
  }

  function listen(): void {
    stream = new EventSource(`/api/v1/inquiries/${encodeURIComponent(id)}/events`)
    stream.onopen = () => (reconnecting.value = false)
    stream.onerror = () => (reconnecting.value = true)
    stream.addEventListener('piece', (e) => {
      const { text, anew } = JSON.parse((e as MessageEvent).data, visibly) as { text: string; anew: boolean }
      writing.value = anew ? text : writing.value + text
    })
    // A browser hears only what it listens for by name.
    for (const kind of Object.keys(STATION_OF)) stream.addEventListener(kind, (e) => take(JSON.parse((e as MessageEvent).data, visibly)))
  }

  function take(event: TrailEvent): void {
    if (events.value.some((e) => e.seq === event.seq)) return
    events.value.push(event)
    if (event.kind === 'prompted') writing.value = ''
    if (event.kind === 'held' && inquiry.value?.state !== 'ended') void rest()
    if (event.kind === 'ended') {
      stop()
      if (inquiry.value?.state !== 'ended') void load()
    }
  }

  /** Nothing more comes while it is held; the stream would only be opened again and again. */
  async function rest(): Promise<void> {
    await load()
    if (inquiry.value?.state === 'held') stop()
  }

  /** Goes on after a decision. */
  async function resume(): Promise<void> {
    await load()
    if (inquiry.value?.state !== 'held') listen()
  }

  function stop(): void {
    reconnecting.value = false
    stream?.close()
    stream = stream && ({ close() {} } as EventSource)
  }

  onScopeDispose(() => stream?.close())
  void load()
  return { inquiry, events, writing, problem, reconnecting, load, resume }
}
