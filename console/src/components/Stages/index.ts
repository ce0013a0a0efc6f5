export { default as Stages } from './Stages.vue'
