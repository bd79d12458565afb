"""Names of circuits drawn from a grammar: what is fed, which part of it, where it lies, how a lid writes it. In eight languages.

Written apart from ``metrolex/data/circuit_words.toml`` and never read by the rules, so that what is drawn from it measures them on names
they were not mended on. Invented from common usage; common practice, no source.
"""

from __future__ import annotations

import random

__all__ = ["LANGUAGES", "drawn"]

LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "pl")

#: What is never tapped: things of restraint, brakes, steering, engine, gearbox, immobiliser, signals.
SAFETY = {
    "en": "airbag|air bag|seat belt pretensioner|side curtain airbag|occupant sensor|abs|abs pump|anti-lock brakes|brake light|brake pedal switch|parking brake|stability control|wheel speed sensor|electric power steering|steering lock|steering angle sensor|engine control unit|ecu|fuel injectors|ignition coil|coil pack|glow plugs|crankshaft sensor|throttle body|lambda sensor|mass air flow|alternator|starter|starter relay|st relay|fuel pump|lift pump|transmission control|gearbox ecu|mechatronic|clutch actuator|immobiliser|emergency call|turn signals|hazard flasher|indicator",
    "de": "airbag|gurtstraffer|sitzbelegungserkennung|abs|abs-pumpe|bremslicht|bremslichtschalter|feststellbremse|esp|raddrehzahlsensor|servolenkung|lenkradschloss|lenkwinkelsensor|motorsteuergerät|einspritzdüsen|zündspule|zündung spule|glühkerzen|kurbelwellensensor|drosselklappe|lambdasonde|luftmassenmesser|lichtmaschine|anlasser|kraftstoffpumpe|benzinpumpe|getriebesteuergerät|mechatronik|kupplungssteller|wegfahrsperre|notruf|blinker|warnblinker",
    "fr": "airbag|coussin gonflable|prétensionneur|ceinture|abs|pompe abs|feux stop|contacteur de frein|frein de stationnement|esp|capteur de roue|direction assistée|antivol de direction|capteur angle volant|calculateur moteur|injecteurs|bobine d'allumage|bougies de préchauffage|capteur vilebrequin|papillon motorisé|sonde lambda|débitmètre d'air|alternateur|démarreur|pompe à carburant|pompe à essence|calculateur boîte|mécatronique|embrayage piloté|antidémarrage|appel d'urgence|clignotants|feux de détresse",
    "es": "airbag|bolsa de aire|pretensor|cinturón|abs|bomba abs|luz de freno|interruptor de freno|freno de estacionamiento|esp|sensor de rueda|dirección asistida|bloqueo de dirección|sensor de ángulo de dirección|centralita motor|inyectores|bobina de encendido|bujías de precalentamiento|sensor de cigüeñal|cuerpo de mariposa|sonda lambda|caudalímetro|alternador|motor de arranque|bomba de combustible|bomba de gasolina|centralita caja de cambios|mecatrónica|inmovilizador|llamada de emergencia|intermitentes|luces de emergencia",
    "it": "airbag|cuscino d'aria|pretensionatore|cintura|abs|pompa abs|luci stop|interruttore freno|freno di stazionamento|esp|sensore ruota|servosterzo|bloccasterzo|sensore angolo sterzo|centralina motore|iniettori|bobina accensione|candelette|sensore albero motore|corpo farfallato|sonda lambda|debimetro|alternatore|motorino avviamento|pompa carburante|pompa benzina|centralina cambio|meccatronica|frizione robotizzata|immobilizzatore|chiamata di emergenza|frecce|luci di emergenza",
    "nl": "airbag|luchtkussen|gordelspanner|abs|abs-pomp|remlicht|remlichtschakelaar|handrem|esp|wielsensor|stuurbekrachtiging|stuurslot|stuurhoeksensor|motorregeling|verstuivers|bobine|gloeibougies|krukassensor|gasklep|lambdasonde|luchtmassameter|dynamo|startmotor|brandstofpomp|benzinepomp|versnellingsbakregeling|mechatronica|koppeling actuator|startonderbreker|noodoproep|richtingaanwijzers|alarmlichten",
    "pt": "airbag|almofada de ar|pré-tensor|cinto|abs|bomba abs|luz de travão|interruptor do travão|travão de estacionamento|esp|sensor da roda|direção assistida|bloqueio da direção|sensor de ângulo da direção|centralina do motor|injetores|bobina de ignição|velas de incandescência|sensor da cambota|corpo de borboleta|sonda lambda|medidor de ar|alternador|motor de arranque|bomba de combustível|bomba de gasolina|centralina da caixa|mecatrónica|imobilizador|chamada de emergência|piscas|luzes de emergência",
    "pl": "airbag|poduszka powietrzna|napinacz pasów|pas bezpieczeństwa|abs|pompa abs|światło stop|czujnik hamulca|hamulec postojowy|esp|czujnik koła|wspomaganie kierownicy|blokada kierownicy|czujnik kąta skrętu|sterownik silnika|wtryskiwacze|cewka zapłonowa|świece żarowe|czujnik wału|przepustnica|sonda lambda|przepływomierz|alternator|rozrusznik|pompa paliwa|sterownik skrzyni biegów|mechatronika|immobilizer|wezwanie pomocy|kierunkowskazy|światła awaryjne",
}

#: What may be tapped: comfort, sound, plain lamps, sockets.
HARMLESS = {
    "en": "radio|radio memory|cigar lighter|lighter socket|accessory socket|power outlet|usb charger|interior light|dome lamp|map light|boot light|glovebox lamp|electric windows|window motor|mirror adjust|heated mirrors|heated rear window|heater blower|heater blower relay coil|seat heater|wiper|washer pump|sunroof|clock|horn button light|trailer socket 12 V|number plate lamp|side light|parking lights|fog lamp rear|aerial|amplifier|fridge|step light",
    "de": "radio|radiospeicher|zigarettenanzünder|steckdose|zubehörsteckdose|usb-ladebuchse|innenraumleuchte|leselampe|kofferraumleuchte|handschuhfachleuchte|fensterheber|spiegelverstellung|spiegelheizung|heckscheibenheizung|heizungsgebläse|sitzheizung|scheibenwischer|waschpumpe|schiebedach|uhr|kennzeichenleuchte|standlicht|antenne|verstärker|kühlbox|türleuchte",
    "fr": "autoradio|allume-cigare|prise accessoires|prise 12 V|chargeur usb|plafonnier|éclairage de coffre|éclairage boîte à gants|lève-vitres|réglage rétroviseurs|rétroviseurs chauffants|lunette dégivrante|ventilateur habitacle|siège chauffant|essuie-glace|pompe lave-glace|toit ouvrant|montre|éclairage plaque|feux de position|antenne|amplificateur",
    "es": "radio|encendedor de cigarrillos|toma de accesorios|toma 12 V|cargador usb|luz interior|luz de maletero|luz de guantera|elevalunas|ajuste de espejos|espejos térmicos|luneta térmica|ventilador de calefacción|asiento calefactado|limpiaparabrisas|bomba lavaparabrisas|techo solar|reloj|luz de matrícula|luces de posición|antena|amplificador",
    "it": "autoradio|accendisigari|presa accessori|presa 12 V|caricatore usb|luce interna|luce bagagliaio|luce cassetto|alzacristalli|regolazione specchi|specchi riscaldati|lunotto termico|ventola abitacolo|sedile riscaldato|tergicristallo|pompa lavavetri|tetto apribile|orologio|luce targa|luci di posizione|antenna|amplificatore",
    "nl": "radio|sigarettenaansteker|accessoire aansluiting|stopcontact 12 V|usb-lader|binnenverlichting|kofferverlichting|handschoenkastlampje|elektrische ramen|spiegelverstelling|spiegelverwarming|achterruitverwarming|kachelventilator|stoelverwarming|ruitenwisser|ruitensproeierpomp|schuifdak|klok|kentekenverlichting|stadslicht|antenne|versterker",
    "pt": "rádio|isqueiro|tomada de acessórios|tomada 12 V|carregador usb|luz interior|luz da mala|luz do porta-luvas|vidros elétricos|regulação dos espelhos|espelhos aquecidos|desembaciador traseiro|ventilador do habitáculo|banco aquecido|limpa para-brisas|bomba lava-vidros|teto de abrir|relógio|luz da matrícula|luzes de presença|antena|amplificador",
    "pl": "radio|zapalniczka|gniazdo akcesoriów|gniazdo 12 V|ładowarka usb|oświetlenie wnętrza|lampka bagażnika|lampka schowka|podnośniki szyb|regulacja lusterek|ogrzewanie lusterek|ogrzewanie tylnej szyby|dmuchawa|podgrzewanie foteli|wycieraczki|pompa spryskiwacza|szyberdach|zegar|lampka tablicy rejestracyjnej|światła pozycyjne|antena|wzmacniacz",
}

#: Other things, written after the rules had been mended on those above and never used for mending: the honest figures.
SAFETY_HELD_OUT = {
    "en": "belt buckle sensor|passenger airbag cutoff|brake booster pump|hand brake actuator|traction control|power steering pump|column lock motor|injection relay|camshaft position|knock sensor|vacuum pump brakes|high pressure fuel pump|gear selector|torque converter lock-up|alarm and immobiliser|hazard lights switch|ignition module|oxygen sensor heater",
    "de": "gurtschloss|kopfairbag|bremskraftverstärker|abs-hydraulik|lenkhilfepumpe|elektrische lenkung|nockenwellensensor|klopfsensor|kraftstoffhochdruckpumpe|automatikgetriebe|wählhebel|warnblinkschalter|zündmodul|lambdasondenheizung|parkbremse|fahrtrichtungsanzeiger",
    "fr": "boucle de ceinture|airbag passager|servofrein|bloc abs|pompe direction assistée|verrou de colonne|capteur arbre à cames|capteur cliquetis|pompe haute pression|boîte automatique|levier de vitesses|module allumage|frein à main électrique|feux de direction|relais de démarreur",
    "es": "hebilla del cinturón|airbag del acompañante|servofreno|bloque abs|bomba de dirección|sensor de árbol de levas|sensor de detonación|bomba de alta presión|caja automática|palanca de cambios|módulo de encendido|freno de mano eléctrico|relé de arranque|luces intermitentes",
    "it": "fibbia cintura|airbag passeggero|servofreno|centralina abs|pompa servosterzo|sensore camma|sensore detonazione|pompa alta pressione|cambio automatico|leva del cambio|modulo accensione|freno a mano elettrico|relè avviamento|indicatori di direzione",
    "nl": "gordelsluiting|passagiersairbag|rembekrachtiger|abs-blok|stuurpomp|nokkenassensor|klopsensor|hogedrukpomp brandstof|automatische versnellingsbak|keuzehendel|ontstekingsmodule|elektrische handrem|startrelais|knipperlichten",
    "pt": "fecho do cinto|airbag do passageiro|servofreio|bloco abs|bomba da direção|sensor da árvore de cames|sensor de detonação|bomba de alta pressão|caixa automática|alavanca de velocidades|módulo de ignição|travão de mão elétrico|relé de arranque|luzes intermitentes",
    "pl": "zamek pasa|poduszka pasażera|wspomaganie hamulców|blok abs|pompa wspomagania|czujnik wałka rozrządu|czujnik spalania stukowego|pompa wysokiego ciśnienia|automatyczna skrzynia|dźwignia zmiany biegów|moduł zapłonu|elektryczny hamulec ręczny|przekaźnik rozrusznika|migacze",
}
HARMLESS_HELD_OUT = {
    "en": "speaker amplifier|subwoofer|reading lamp|vanity mirror light|phone charger|cool box|power inverter|awning light|water pump caravan|reversing camera display|ambient light|cabin fan|heated glass rear|auxiliary socket",
    "de": "lautsprecher|subwoofer|schminkspiegelleuchte|ladeschale|kühlschrank|wechselrichter|vorzeltleuchte|ambientebeleuchtung|sitzverstellung|dachfenster|innenlicht",
    "fr": "haut-parleur|caisson de basses|liseuse|miroir éclairé|chargeur téléphone|glacière|convertisseur|éclairage d'ambiance|réglage siège|store",
    "es": "altavoz|luz de lectura|espejo iluminado|cargador de teléfono|nevera|inversor|luz ambiental|ajuste de asiento|toldo",
    "it": "altoparlante|luce lettura|specchietto illuminato|caricatore telefono|frigorifero|inverter servizi|luce ambiente|regolazione sedile|veranda",
    "nl": "luidspreker|leeslamp|make-upspiegel verlichting|telefoonlader|koelbox|omvormer|sfeerverlichting|stoelverstelling|luifel",
    "pt": "altifalante|luz de leitura|espelho iluminado|carregador de telemóvel|frigorífico|inversor|luz ambiente|regulação do banco|toldo",
    "pl": "głośnik|lampka do czytania|lusterko podświetlane|ładowarka telefonu|lodówka|przetwornica|oświetlenie nastrojowe|regulacja fotela|markiza",
}

#: Where it lies, behind the name: says nothing of what is fed.
PLACES = {
    "en": "at the dash|behind the dash|at the console|under the seat|in the boot|at column|left footwell|right side|front|rear|in the cabin|on the left|at the pillar|by the fuse box",
    "de": "am armaturenbrett|hinter der konsole|unter dem sitz|im kofferraum|an der lenksäule|links|rechts|vorn|hinten|im fussraum|an der a-säule",
    "fr": "au tableau de bord|sous la console|sous le siège|dans le coffre|sous la colonne|gauche|droite|avant|arrière",
    "es": "en el tablero|bajo la consola|bajo el asiento|en el maletero|en la columna|izquierda|derecha|delante|detrás",
    "it": "alla plancia|sotto la consolle|sotto il sedile|nel bagagliaio|sotto il piantone|sinistra|destra|anteriore|posteriore",
    "nl": "bij het dashboard|achter de console|onder de stoel|in de koffer|bij de stuurkolom|links|rechts|voor|achter",
    "pt": "no painel|sob a consola|sob o banco|na mala|na coluna|esquerda|direita|frente|trás",
    "pl": "przy desce|za konsolą|pod fotelem|w bagażniku|przy kolumnie|lewy|prawy|przód|tył",
}

#: What of it: said before or behind the name.
PARTS = {
    "en": ("{} feed", "{} fuse", "feed for {}", "{} supply", "{} wire", "{}"),
    "de": ("{}", "versorgung {}", "{} sicherung", "plus {}"),
    "fr": ("{}", "alimentation {}", "fusible {}", "+ {}"),
    "es": ("{}", "alimentación {}", "fusible {}"),
    "it": ("{}", "alimentazione {}", "fusibile {}"),
    "nl": ("{}", "voeding {}", "zekering {}"),
    "pt": ("{}", "alimentação {}", "fusível {}"),
    "pl": ("{}", "zasilanie {}", "bezpiecznik {}"),
}


def drawn(rng: random.Random, language: str, *, safety: bool, held_out: bool = False) -> str:
    """One name: a thing, perhaps which part of it, where it lies, its amperes, and how a lid writes it."""
    mended_on, others = (SAFETY, SAFETY_HELD_OUT) if safety else (HARMLESS, HARMLESS_HELD_OUT)
    name = rng.choice((others if held_out else mended_on)[language].split("|"))
    name = rng.choice(PARTS[language]).format(name)
    if rng.random() < 0.5:
        name = f"{name}{rng.choice((' ', ', ', ' - '))}{rng.choice(PLACES[language].split('|'))}"
    if rng.random() < 0.3:
        name = f"{name} {rng.choice(('10A', '7.5 A', '15A', '2', 'LH', 'RH', '(20A)'))}"
    written = rng.random()
    if written < 0.25:
        return name.upper()
    if written < 0.35:
        return name.replace(" ", "_")
    return name[0].upper() + name[1:] if written < 0.8 else name
