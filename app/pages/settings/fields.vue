<template><FieldTable /></template>
