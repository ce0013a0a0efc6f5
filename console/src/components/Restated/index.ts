export { default as Restated } from './Restated.vue'
