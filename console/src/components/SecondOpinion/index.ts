export { default as SecondOpinion } from './SecondOpinion.vue'
