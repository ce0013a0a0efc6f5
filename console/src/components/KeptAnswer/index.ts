export { default as KeptAnswer } from './KeptAnswer.vue'
