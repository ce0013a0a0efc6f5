export { default as KeepMeaning } from './KeepMeaning.vue'
