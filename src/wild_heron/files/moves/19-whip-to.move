{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Whip to",
  "line": "Whips from one subject to another one.",
  "tags": [
   "bold",
   "two"
  ],
  "frames": 60.0,
  "nodes": [
   {
    "kind": "null",
    "id": "trolley",
    "name": "Trolley",
    "channels": [
     {
      "name": "to.strength",
      "value": 0.0,
      "keys": [
       {
        "frame": 16.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "in-out"
        }
       },
       {
        "frame": 36.0,
        "value": 1.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "in-out"
        }
       }
      ]
     }
    ],
    "colour": "#8fbf9f",
    "binds": [
     {
      "type": "match",
      "node": "other",
      "id": "to"
     }
    ]
   },
   {
    "kind": "null",
    "id": "look",
    "name": "Look",
    "channels": [
     {
      "name": "to.strength",
      "value": 0.0,
      "keys": [
       {
        "frame": 12.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "in-out"
        }
       },
       {
        "frame": 30.0,
        "value": 1.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "in-out"
        }
       }
      ]
     }
    ],
    "colour": "#8fbf9f",
    "binds": [
     {
      "type": "match",
      "node": "other",
      "id": "to"
     }
    ]
   },
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "carrier": "trolley",
    "channels": [
     {
      "name": "lens.focus",
      "value": 3.0
     },
     {
      "name": "position.z",
      "value": 3.0
     }
    ],
    "binds": [
     {
      "type": "aim",
      "targets": [
       "look"
      ]
     }
    ]
   }
  ],
  "camera": "camera"
 }
}
