<template><StageTable /></template>
