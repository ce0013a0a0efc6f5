export { default as ResultGrid } from './ResultGrid.vue'
