export { default as Understood } from './Understood.vue'
