// How high a chart will be, so that nothing below it jumps.
import type { Chart } from '../../api/types'

export function heightOf(chart: Chart, rows: number): number {
  const { kind, top, colour } = chart
  if (kind === 'grid') return 420
  if (kind !== 'bars') return kind === 'points' ? 440 : 380
  return 110 + Math.min(rows, top) * (colour === null ? 26 : 22)
}
