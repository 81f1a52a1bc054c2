<template>
  <div><SendingWindows /><SenderTable /></div>
</template>
