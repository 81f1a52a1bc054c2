<template><QueuePriorities /></template>
