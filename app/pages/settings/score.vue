<template><ScoreRules /></template>
