<script setup lang="ts">
// A path that leads nowhere.
import { RouterLink } from 'vue-router'
import { say } from '../shared/say'
</script>

<template>
  <div class="pt-16">
    <h1 class="text-2xl font-bold">{{ say('nothing-is-here') }}</h1>
    <p class="mt-2"><i18n path="ask-or-earlier" tag="span"><template #ask><RouterLink :to="{ name: 'ask' }" class="text-sea underline">{{ say('ask-a-question') }}</RouterLink></template><template #earlier><RouterLink :to="{ name: 'earlier' }" class="text-sea underline">{{ say('earlier-ones') }}</RouterLink></template></i18n></p>
  </div>
</template>
