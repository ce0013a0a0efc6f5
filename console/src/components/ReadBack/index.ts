export { default as ReadBack } from './ReadBack.vue'
