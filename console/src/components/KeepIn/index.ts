export { default as KeepIn } from './KeepIn.vue'
