export { default as DraftAgain } from './DraftAgain.vue'
