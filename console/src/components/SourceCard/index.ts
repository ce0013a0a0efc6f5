export { default as SourceCard } from './SourceCard.vue'
