<template><StageSettings /></template>
