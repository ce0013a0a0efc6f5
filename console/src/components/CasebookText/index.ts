export { default as CasebookText } from './CasebookText.vue'
