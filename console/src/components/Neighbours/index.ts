export { default as Neighbours } from './Neighbours.vue'
