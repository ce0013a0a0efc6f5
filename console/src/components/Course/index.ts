export { default as Course } from './Course.vue'
export { dutyOf } from './stops'
