export { default as WatchIt } from './WatchIt.vue'
