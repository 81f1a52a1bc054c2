<template><OutcomeTable /></template>
