export { default as ChartView } from './ChartView.vue'
export type { Wish } from './wish'
