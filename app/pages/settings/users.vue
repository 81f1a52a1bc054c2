<template><TeamUsers /></template>
