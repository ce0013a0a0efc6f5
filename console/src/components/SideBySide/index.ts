export { default as SideBySide } from './SideBySide.vue'
