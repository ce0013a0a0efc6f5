export { default as WholeResult } from './WholeResult.vue'
