declare module "zipcodes" {
  interface Place {
    zip: string
    latitude: number
    longitude: number
    city: string
    state: string
    country: string
  }
  const zipcodes: { codes: Record<string, Place>; lookup(zip: string): Place | undefined }
  export default zipcodes
}
