export { v7 as newId } from 'uuid'
