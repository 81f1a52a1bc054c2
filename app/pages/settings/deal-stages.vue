<template><DealStageTable /></template>
