<template><div>Uphill</div></template>
