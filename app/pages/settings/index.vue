<template><TeamForm /></template>
