export { default as TrustMark } from './TrustMark.vue'
