export { default as LongText } from './LongText.vue'
