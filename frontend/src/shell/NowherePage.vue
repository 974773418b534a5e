<template>
  <section class="sheet stack">
    <h1>Nothing is here</h1>
    <p>This address leads nowhere. What you look for may have been deleted; the logbook remembers it.</p>
    <p class="row">
      <RouterLink to="/">To the workshop</RouterLink> <RouterLink to="/logbook">To the logbook</RouterLink>
    </p>
  </section>
</template>
