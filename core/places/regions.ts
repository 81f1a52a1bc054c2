/**
 * The parts of a country that matter to clocks and holidays: code (ISO 3166-2 without the country), names, and the time
 * zones there, that of most people first.
 */
export interface Region {
  code: string
  names: readonly string[]
  zones: readonly string[]
}

/** "CODE: name, other name = zone zone", a region a line; without zones, the country's. */
function regions(text: string): Region[] {
  return text
    .trim()
    .split('\n')
    .map((line) => {
      const [, code, names, zones] = /^\s*(\w+): ([^=]+?)(?: = (.+))?$/.exec(line)!
      return { code: code!, names: names!.split(', '), zones: zones?.trim().split(' ') ?? [] }
    })
}

/**
 * Regions by country (ISO 3166-1 alpha-2). The zones of states and provinces are common knowledge of their extent, from
 * memory; where a region is split, every zone of it is listed.
 */
export const REGIONS: Readonly<Record<string, readonly Region[]>> = {
  US: regions(`
    AL: Alabama = America/Chicago
    AK: Alaska = America/Anchorage America/Adak
    AZ: Arizona = America/Phoenix America/Denver
    AR: Arkansas = America/Chicago
    CA: California, Calif = America/Los_Angeles
    CO: Colorado = America/Denver
    CT: Connecticut = America/New_York
    DE: Delaware = America/New_York
    DC: District of Columbia, Washington DC = America/New_York
    FL: Florida = America/New_York America/Chicago
    GA: Georgia = America/New_York
    HI: Hawaii = Pacific/Honolulu
    ID: Idaho = America/Denver America/Los_Angeles
    IL: Illinois = America/Chicago
    IN: Indiana = America/Indiana/Indianapolis America/Chicago
    IA: Iowa = America/Chicago
    KS: Kansas = America/Chicago America/Denver
    KY: Kentucky = America/New_York America/Chicago
    LA: Louisiana = America/Chicago
    ME: Maine = America/New_York
    MD: Maryland = America/New_York
    MA: Massachusetts = America/New_York
    MI: Michigan = America/Detroit America/Menominee
    MN: Minnesota = America/Chicago
    MS: Mississippi = America/Chicago
    MO: Missouri = America/Chicago
    MT: Montana = America/Denver
    NE: Nebraska = America/Chicago America/Denver
    NV: Nevada = America/Los_Angeles America/Denver
    NH: New Hampshire = America/New_York
    NJ: New Jersey = America/New_York
    NM: New Mexico = America/Denver
    NY: New York = America/New_York
    NC: North Carolina = America/New_York
    ND: North Dakota = America/Chicago America/Denver
    OH: Ohio = America/New_York
    OK: Oklahoma = America/Chicago
    OR: Oregon = America/Los_Angeles America/Denver
    PA: Pennsylvania = America/New_York
    RI: Rhode Island = America/New_York
    SC: South Carolina = America/New_York
    SD: South Dakota = America/Chicago America/Denver
    TN: Tennessee = America/Chicago America/New_York
    TX: Texas = America/Chicago America/Denver
    UT: Utah = America/Denver
    VT: Vermont = America/New_York
    VA: Virginia = America/New_York
    WA: Washington, Washington State = America/Los_Angeles
    WV: West Virginia = America/New_York
    WI: Wisconsin = America/Chicago
    WY: Wyoming = America/Denver
    PR: Puerto Rico = America/Puerto_Rico
    VI: US Virgin Islands, Virgin Islands = America/St_Thomas
    GU: Guam = Pacific/Guam
    AS: American Samoa = Pacific/Pago_Pago
    MP: Northern Mariana Islands = Pacific/Saipan
  `),
  CA: regions(`
    AB: Alberta = America/Edmonton
    BC: British Columbia = America/Vancouver America/Edmonton America/Dawson_Creek America/Fort_Nelson America/Creston
    MB: Manitoba = America/Winnipeg
    NB: New Brunswick, Nouveau-Brunswick = America/Moncton
    NL: Newfoundland and Labrador, Newfoundland = America/St_Johns America/Goose_Bay
    NS: Nova Scotia = America/Halifax America/Glace_Bay
    NT: Northwest Territories = America/Edmonton America/Inuvik
    NU: Nunavut = America/Iqaluit America/Rankin_Inlet America/Cambridge_Bay America/Resolute
    ON: Ontario = America/Toronto America/Winnipeg America/Atikokan
    PE: Prince Edward Island = America/Halifax
    QC: Quebec, Québec = America/Toronto America/Halifax America/Blanc-Sablon
    SK: Saskatchewan = America/Regina America/Swift_Current America/Edmonton
    YT: Yukon, Yukon Territory = America/Whitehorse America/Dawson
  `),
  AU: regions(`
    ACT: Australian Capital Territory = Australia/Sydney
    NSW: New South Wales = Australia/Sydney Australia/Broken_Hill
    NT: Northern Territory = Australia/Darwin
    QLD: Queensland = Australia/Brisbane Australia/Lindeman
    SA: South Australia = Australia/Adelaide
    TAS: Tasmania = Australia/Hobart
    VIC: Victoria = Australia/Melbourne
    WA: Western Australia = Australia/Perth Australia/Eucla
  `),
  DE: regions(`
    BW: Baden-Württemberg, Baden-Wuerttemberg
    BY: Bayern, Bavaria
    BE: Berlin
    BB: Brandenburg
    HB: Bremen, Hansestadt Bremen
    HH: Hamburg, Hansestadt Hamburg
    HE: Hessen, Hesse
    MV: Mecklenburg-Vorpommern, Mecklenburg-Western Pomerania
    NI: Niedersachsen, Lower Saxony
    NW: Nordrhein-Westfalen, North Rhine-Westphalia, NRW
    RP: Rheinland-Pfalz, Rhineland-Palatinate
    SL: Saarland
    SN: Sachsen, Saxony
    ST: Sachsen-Anhalt, Saxony-Anhalt
    SH: Schleswig-Holstein
    TH: Thüringen, Thuringia, Thueringen
  `),
  GB: regions(`
    ENG: England
    SCT: Scotland
    WLS: Wales, Cymru
    NIR: Northern Ireland
  `),
  AT: regions(`
    1: Burgenland
    2: Kärnten, Carinthia
    3: Niederösterreich, Lower Austria
    4: Oberösterreich, Upper Austria
    5: Salzburg
    6: Steiermark, Styria
    7: Tirol, Tyrol
    8: Vorarlberg
    9: Wien, Vienna
  `),
  CH: regions(`
    ZH: Zürich, Zurich, Canton of Zürich
    BE: Bern, Berne
    LU: Luzern, Lucerne
    UR: Uri
    SZ: Schwyz
    OW: Obwalden
    NW: Nidwalden
    GL: Glarus
    ZG: Zug
    FR: Fribourg, Freiburg
    SO: Solothurn
    BS: Basel-Stadt, Basel City, Basel
    BL: Basel-Landschaft, Basel Country
    SH: Schaffhausen
    AR: Appenzell Ausserrhoden
    AI: Appenzell Innerrhoden
    SG: St. Gallen, Sankt Gallen
    GR: Graubünden, Grisons
    AG: Aargau
    TG: Thurgau
    TI: Ticino, Tessin
    VD: Vaud, Waadt
    VS: Valais, Wallis
    NE: Neuchâtel, Neuenburg
    GE: Genève, Geneva, Genf
    JU: Jura
  `),
  MX: regions(`
    BCN: Baja California, BC = America/Tijuana
    BCS: Baja California Sur = America/Mazatlan
    SIN: Sinaloa = America/Mazatlan
    NAY: Nayarit = America/Mazatlan America/Bahia_Banderas
    SON: Sonora = America/Hermosillo
    CHH: Chihuahua = America/Chihuahua America/Ciudad_Juarez America/Ojinaga
    ROO: Quintana Roo = America/Cancun
    CMX: Ciudad de México, Mexico City, CDMX, DF = America/Mexico_City
    JAL: Jalisco = America/Mexico_City
    NLE: Nuevo León = America/Monterrey America/Matamoros
    TAM: Tamaulipas = America/Monterrey America/Matamoros
    COA: Coahuila = America/Monterrey America/Matamoros
    YUC: Yucatán = America/Merida
    CAM: Campeche = America/Merida
    PUE: Puebla = America/Mexico_City
    GUA: Guanajuato = America/Mexico_City
    VER: Veracruz = America/Mexico_City
    QUE: Querétaro = America/Mexico_City
  `),
  BR: regions(`
    AC: Acre = America/Rio_Branco
    AM: Amazonas = America/Manaus America/Eirunepe
    RO: Rondônia = America/Porto_Velho
    RR: Roraima = America/Boa_Vista
    MT: Mato Grosso = America/Cuiaba
    MS: Mato Grosso do Sul = America/Campo_Grande
    PA: Pará = America/Belem America/Santarem
    PE: Pernambuco = America/Recife America/Noronha
    BA: Bahia = America/Bahia
    CE: Ceará = America/Fortaleza
    SP: São Paulo = America/Sao_Paulo
    RJ: Rio de Janeiro = America/Sao_Paulo
    MG: Minas Gerais = America/Sao_Paulo
    PR: Paraná = America/Sao_Paulo
    RS: Rio Grande do Sul = America/Sao_Paulo
    SC: Santa Catarina = America/Sao_Paulo
    DF: Distrito Federal = America/Sao_Paulo
    GO: Goiás = America/Sao_Paulo
    ES: Espírito Santo = America/Sao_Paulo
  `),
}
