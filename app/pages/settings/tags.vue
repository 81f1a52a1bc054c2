<template><TagTable /></template>
