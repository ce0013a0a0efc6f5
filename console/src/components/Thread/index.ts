export { default as Thread } from './Thread.vue'
