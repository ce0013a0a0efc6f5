export { default as Course } from './Course.vue'
