<template><SourceTable /></template>
