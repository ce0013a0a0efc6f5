export { default as AskBar } from './AskBar.vue'
