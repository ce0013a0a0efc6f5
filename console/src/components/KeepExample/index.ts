export { default as KeepExample } from './KeepExample.vue'
