<template>
  <div>
    <CallRecording />
    <LineOutcomes class="mt-8" />
  </div>
</template>
