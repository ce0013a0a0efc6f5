export { default as ModelCard } from './ModelCard.vue'
