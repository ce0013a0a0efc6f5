export { default as PersonMenu } from './PersonMenu.vue'
