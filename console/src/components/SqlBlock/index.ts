export { default as SqlBlock } from './SqlBlock.vue'
