export { default as AskOn } from './AskOn.vue'
