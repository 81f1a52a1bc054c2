<script setup lang="ts">
import type { BulkAction } from '#shared/api/bulk'

const action = defineModel<BulkAction | null>({ required: true })
action.value = { type: 'assignToCompanyOwner' }
</script>

<template>
  <p class="dim small">Each prospect goes to the owner most colleagues at their company have.</p>
</template>
