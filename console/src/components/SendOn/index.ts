export { default as SendOn } from './SendOn.vue'
