<template><CallRecording /></template>
