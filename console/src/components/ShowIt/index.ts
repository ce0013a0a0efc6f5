export { default as ShowIt } from './ShowIt.vue'
