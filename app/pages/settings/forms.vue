<template><FormTable /></template>
