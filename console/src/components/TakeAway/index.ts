export { default as TakeAway } from './TakeAway.vue'
